"""The web side of circulators and their rings."""
