"""Samples: measured, rendered, corrected."""
