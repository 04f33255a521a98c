"""The field's rules and arithmetic: NumPy, SciPy, numba; no interface, database, file, clock or log."""
