"""The records that are kept: frozen dataclasses, in SI, whatever keeps them."""
