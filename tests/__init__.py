"""The tests: a tree that mirrors the package."""

from hypothesis import HealthCheck, settings

# A slow spell of the machine is no fault of the code.
settings.register_profile("any machine", suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")
