"""Demo data of the one scenario: effects that volunteers of a midsummer theatre festival on a tidal island make."""
