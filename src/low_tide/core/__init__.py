"""The rules and the computation: numpy, scipy and the standard library, no interface, store or files."""
