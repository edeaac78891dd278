"""The foot of the middle: the working card and the lists."""
