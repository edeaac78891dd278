"""History: what happened?"""

NAME = "history"
