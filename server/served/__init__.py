"""What is served: the API and the pages of all apps put together."""
