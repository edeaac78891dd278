"""Skerrybank Mill, which is made up: its sales lines, its plan, and how they are made."""

from pathlib import Path


def sales_path() -> Path:
    """The sales lines, as CSV."""
    return Path(__file__).with_name("skerrybank.csv")


def plan_path() -> Path:
    """The plan on these lines."""
    return Path(__file__).with_name("skerrybank.oattide")
