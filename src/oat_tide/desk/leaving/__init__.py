"""What leaves the window: figures, pictures, the example."""
