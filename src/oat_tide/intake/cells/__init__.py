"""Cells understood: numbers, dates, the names of months, and columns kept by codes."""
