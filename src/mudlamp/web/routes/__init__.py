"""One module a page or door."""
