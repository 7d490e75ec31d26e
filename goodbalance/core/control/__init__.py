"""How controllers and panels act, scan by scan, and why."""
