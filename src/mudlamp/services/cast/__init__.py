"""The cast: what is asked in feet and what is answered in words."""
