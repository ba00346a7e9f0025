"""What things are like by themselves: materials and layers, sources, microphones, leaves, pieces. Nothing of a room."""
