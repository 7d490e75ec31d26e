"""Tests mirror the house: core, store, web, browser. Property tests draw the same examples every time, however slow the machine is."""

from hypothesis import HealthCheck, settings

settings.register_profile("same every time", derandomize=True, database=None, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("same every time")
