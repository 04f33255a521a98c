"""Trips: days on the water with their weather, moves, fish, photos and limits."""
