"""Answers to questions about a codebase that are no findings: entry points, traces, object graphs, reports."""
