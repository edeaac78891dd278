"""How everything looks: colours, fonts, tints, plain text, lines to type in."""
