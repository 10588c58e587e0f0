"""Lower edges that water drips from: where they are, the icicles on them, and the drops."""
