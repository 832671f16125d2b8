"""How the camera stood: roll, lean and swing from all readings together, and how sure that is."""
