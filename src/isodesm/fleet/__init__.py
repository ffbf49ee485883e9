"""Many trees at once: each is answered for by itself, on this machine or on a cluster, and what comes back is put together."""
