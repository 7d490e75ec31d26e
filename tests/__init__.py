"""Tests mirror the house: core, store, web, browser. Property tests draw the same examples every time."""

from hypothesis import settings

settings.register_profile("same every time", derandomize=True, database=None)
settings.load_profile("same every time")
