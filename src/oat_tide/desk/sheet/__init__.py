"""The side sheet: controls, facts, cautions and choices."""
