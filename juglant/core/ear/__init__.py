"""An ear trainer: questions made of the track, as hard as the ear is good."""
