"""Simulated devices: what a sound level meter, a thermometer would show, errors and noise included."""
