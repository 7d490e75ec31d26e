"""Line and controller joined, and how a run is read."""
