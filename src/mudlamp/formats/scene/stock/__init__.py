"""The stock scenes, as scene files."""
