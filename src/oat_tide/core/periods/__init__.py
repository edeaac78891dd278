"""Periods on real calendars, and years of whole weeks."""
