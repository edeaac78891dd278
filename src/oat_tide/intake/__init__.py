"""From a file to sales lines, and from lines to a panel of period series."""
