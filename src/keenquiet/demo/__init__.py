"""The demo scenario, generated: a made-up duo in a spare room over a bakery."""
