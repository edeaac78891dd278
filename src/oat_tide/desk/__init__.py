"""The window: paints decks, and turns knobs and handles into edits. It knows no stage by name."""
