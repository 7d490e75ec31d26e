"""What several kinds of station share."""
