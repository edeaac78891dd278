"""What the program has of the machine: folders of its own, the log, and other processes."""
