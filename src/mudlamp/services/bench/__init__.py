"""Benchmarks that need neither server nor browser."""
