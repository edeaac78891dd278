"""From lines to sums by day, and from those to a panel of even periods."""
