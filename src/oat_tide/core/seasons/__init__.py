"""What repeats: indices, and trend, season and remainder."""
