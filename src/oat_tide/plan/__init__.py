"""The user's choices as one immutable value, how they change, and the file they are kept in."""
