"""The Tune page, the card, and the card on paper."""
