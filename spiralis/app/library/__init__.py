"""What a person keeps for use in every project: one folder, a file each sort, shared as such files."""
