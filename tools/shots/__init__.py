"""Pictures of the main views, from the demo data."""
