"""Oat Tide: demand planning from sales lines to a projection held against actuals."""

__version__ = "0.1.0"
