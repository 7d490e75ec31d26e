"""A booster set on the bench."""
