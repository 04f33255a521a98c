"""Recordings: the library, the last minute, and what is read from a file or written to one."""
