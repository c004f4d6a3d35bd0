"""What is known of the machine behind a supply."""
