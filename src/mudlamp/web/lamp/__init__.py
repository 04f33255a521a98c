"""The Lamp page, its socket, and the list of recordings on it."""
