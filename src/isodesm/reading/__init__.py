"""Files found, read and kept: discovery, projects, modules, the cache, workers, what is read apart, history."""
