"""Sound in the room: modes, paths, statistical decay, absorbers, microphones, noise."""
