"""Random stations reckoned by the core and marched by small models of their own, written apart from it."""
