"""The parts of a plan, a file each."""
