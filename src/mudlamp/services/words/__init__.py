"""What is said on screen and in print."""
