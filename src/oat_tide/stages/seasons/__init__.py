"""Seasons: what repeats, how strongly, and how does one plan with it?"""

NAME = "seasons"
