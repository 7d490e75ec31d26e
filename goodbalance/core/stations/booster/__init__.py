"""Booster sets: pumps that hold a pressure."""
