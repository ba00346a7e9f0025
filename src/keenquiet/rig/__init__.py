"""The practice rig: what a recorder would get in a simulated room. Always labelled simulated."""
