"""Period series side by side: what is known of them, what was ruled, and how they tie to their source."""
