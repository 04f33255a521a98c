"""Open formats in and out: recordings (netCDF-4), truth (JSON lines), scenes (JSON)."""
