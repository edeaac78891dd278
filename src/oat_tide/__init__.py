"""Oat Tide: demand planning from sales lines to a projection compared with actuals."""

__version__ = "0.1.0"
