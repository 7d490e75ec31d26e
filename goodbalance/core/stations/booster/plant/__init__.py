"""A booster set as equations, and its water as it moves."""
