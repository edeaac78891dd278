"""Skerrybank Mill, which is made up: its sales lines, its plan, and how they are made."""
