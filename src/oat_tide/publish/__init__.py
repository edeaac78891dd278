"""Figures on their way out: tables of what a view shows."""
