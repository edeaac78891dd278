"""Spread: a total over its periods, and down to children. It stands as an arrangement of Seasons."""

NAME = "spread"
