"""In and out: what an owner takes along, as files in open formats, and what they bring."""
