"""The pages: one module a screen. They read what they show and send nothing: acts go through the API."""
