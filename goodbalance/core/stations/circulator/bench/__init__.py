"""Ring and circulator joined, and how a run is read."""
