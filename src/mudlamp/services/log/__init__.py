"""The log: the desk that lists and corrects what happened."""
