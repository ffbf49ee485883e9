"""The report: one page that holds its data and draws itself, without a network."""
