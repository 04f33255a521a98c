"""Scene files: their parts, the reader, the stock scenes."""
