"""Booster sets: pumps that hold a pressure. Being built; not yet one of the kinds on offer."""
