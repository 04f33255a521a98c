"""Fresh water as sound meets it: its speed, its absorption, its clarity."""
