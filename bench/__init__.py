"""Speed and accuracy tables against the simulator's truth, and the screenshots of the documentation."""
