"""Averages over windows."""
