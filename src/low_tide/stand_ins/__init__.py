"""Room for simulated outside devices: sound level meter, audio interface, thermometer. None is needed yet."""
