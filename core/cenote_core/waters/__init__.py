"""Still and running water of the ground: where it is, how it moves, and what light does in it."""
