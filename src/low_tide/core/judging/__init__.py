"""Checks, findings, the verdict, and what one slip would make of it."""
