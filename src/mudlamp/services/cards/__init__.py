"""Set-up cards: the questions, the advice, and the desk that keeps them."""
