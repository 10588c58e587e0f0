"""What stands on a site put into the path tracer's tables, as fine as a picture asks for."""
