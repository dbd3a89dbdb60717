"""Pictures of the simulated world: scenery is cast once per camera and light, moving things are drawn on top."""
