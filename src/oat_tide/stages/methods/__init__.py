"""The methods as figures with a working: a room each, beside its kernel in `oat_tide/core/methods`."""
