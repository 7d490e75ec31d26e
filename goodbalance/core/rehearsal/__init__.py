"""Running a station on the bench: timed actions in, trace, events and reasons out."""
