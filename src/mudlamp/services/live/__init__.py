"""A live session: its process, its loop and commands, what it tells, what it writes down."""
