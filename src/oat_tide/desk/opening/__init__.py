"""What is taken in from outside."""
