"""The stand-in camera's cast, made ahead: people out of an open parametric human, traced into films. Not needed at run time."""
