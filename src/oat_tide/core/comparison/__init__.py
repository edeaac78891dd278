"""Periods held against each other: change, years overlaid, running and trailing totals, the usual."""
