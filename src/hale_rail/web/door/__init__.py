"""Who may come in: by which name this machine is asked, and who has signed in."""
