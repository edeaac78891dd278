"""The chart: bands over one time axis."""
