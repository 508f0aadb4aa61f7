"""Finding what is wrong with a hook-up that stands: symptoms, causes that can be there, and which test tells most."""
