"""The state of the weather: what it does to surfaces that are there already."""
