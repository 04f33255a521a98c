"""Find: a reach of water searched from the console, marks and spots on it, and where the live fan goes down."""
