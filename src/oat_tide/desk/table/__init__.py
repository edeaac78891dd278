"""The tide table and its tally."""
