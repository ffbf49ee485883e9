"""What a plan has come to so far, and the files as that leaves them."""
