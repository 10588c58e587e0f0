"""Snow that lies: where it falls, how it shifts until it holds, and the shape of its cover."""
