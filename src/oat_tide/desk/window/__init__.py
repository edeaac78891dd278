"""The window itself, and what frames the deck in sight."""
