"""The record of a station: append-only entries chained by hash, and what they add up to."""
