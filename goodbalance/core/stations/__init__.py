"""One package per kind of station, each with the same rooms."""
