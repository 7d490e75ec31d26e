"""What is asked of a ring, and what is decided for it."""
