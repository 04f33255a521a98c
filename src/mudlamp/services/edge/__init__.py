"""What the edge adds to the core: units, fields of forms, the sun's height."""
