"""Settings in their windows, the trail behind every number, and the units they are shown in."""
