"""A stage for tests and tools: a database and a web server of their own, a visitor, a browser, a technician who works in it."""
