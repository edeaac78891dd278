"""The middle of the window: one deck, from its title to the table."""
