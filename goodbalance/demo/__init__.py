"""The demo: Kestrel Point, a made-up marine research campus."""
