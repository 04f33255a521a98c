"""The doors to other machines: certificates of a local authority, one lasting name, pairing."""
