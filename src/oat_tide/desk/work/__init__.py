"""Work off the interface thread, late reckoning, and errors that nobody expected."""
