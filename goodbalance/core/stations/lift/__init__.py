"""Lift stations: a wet well that fills, pumps that empty it, levels that start and stop them."""
