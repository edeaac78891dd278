"""The mathematics: periods, panels, windows, regression and workings. NumPy and SciPy only."""
