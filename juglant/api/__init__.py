"""The web application's server: one thin router per step of the work."""
