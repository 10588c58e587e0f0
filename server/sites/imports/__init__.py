"""What is brought in for a site: models and pictures of its own."""
