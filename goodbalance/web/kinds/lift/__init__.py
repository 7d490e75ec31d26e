"""The pages of lift stations."""
