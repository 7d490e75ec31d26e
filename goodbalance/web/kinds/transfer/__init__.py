"""The web side of transfer sets."""
