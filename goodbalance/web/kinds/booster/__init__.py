"""The pages of booster sets."""
