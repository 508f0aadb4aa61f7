"""Low Tide: valve amps into load boxes, planned, judged, run and remembered."""

__version__ = "0.1.0"
