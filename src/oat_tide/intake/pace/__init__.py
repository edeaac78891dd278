"""What keeps reading quick: pieces ahead, and memory kept for the next."""
