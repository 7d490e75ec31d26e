"""The web side of maintenance pumps."""
