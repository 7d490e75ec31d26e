"""The ring as equations and as water on the bench."""
