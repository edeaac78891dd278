"""The window: paints decks, and turns controls and handles into edits. It knows no stage by name."""
