"""The tests: a tree that mirrors the package."""
