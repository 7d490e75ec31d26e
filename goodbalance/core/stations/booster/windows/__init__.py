"""The settings of a booster set in their windows, and what follows from them."""
