"""What is in the water: bottom, cover, fish, lures, boat, and how they behave."""
