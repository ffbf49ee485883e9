"""The one room that opens files to write them: below a codebase nobody trusts, in folders of ours, and where a user says."""
