"""Where lines come from: files, workbooks, databases and typed figures, each a table of text."""
