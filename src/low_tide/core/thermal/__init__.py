"""How what turns power into heat warms up."""
