"""A hook-up with its gear: the model, its validation, its changes, and how it may stand."""
