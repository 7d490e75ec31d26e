"""The pages: one module per view. A route reads, calls the core, calls the store, answers."""
