"""Kinds of gear, a module each: fields, sockets, controls, its part of the speaker network, its signal paths."""
