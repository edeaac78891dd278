"""A stage as a command: its options from its part of the plan, its rows from the figures of its record."""
