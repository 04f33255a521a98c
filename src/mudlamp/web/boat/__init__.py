"""Boat mode: Cast, Set-up and Log on a phone, with or without a link."""
