"""A lift station on the bench."""
