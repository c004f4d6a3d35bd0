"""What is done behind the supply."""
