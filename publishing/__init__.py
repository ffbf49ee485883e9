"""What is made from the program for its readers: the reference of formats, the man page, the pictures of the commands."""
