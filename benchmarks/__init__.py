"""Speed and memory, as ratios to the bare parser over the same files in the same run."""
