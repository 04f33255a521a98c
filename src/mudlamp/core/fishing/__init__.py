"""What to do next: during a shot, across shots, and whether to move."""
