"""Water that stands: where rain gathers, how high, and the shape of its surface."""
