"""What a table means: its shape, what its columns hold, which lines can be used."""
