"""A lift station as equations, and its water as it moves."""
