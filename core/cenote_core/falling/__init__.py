"""What is falling: drops and flakes in the air, as long as the shutter is open."""
