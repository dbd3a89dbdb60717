"""What people at desks do: commands by hand, buttons, calls, rules paused; and what is put before them on screens."""
