"""The settings of a lift station in their windows, and what follows from them."""
