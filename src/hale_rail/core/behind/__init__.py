"""Behind the supply: what a machine says whose rails are right and which does not run."""
