"""The door: how other devices come in: trust, code, pairing."""
