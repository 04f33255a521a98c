"""The same verbs for a shell."""
