"""Storage: one data folder with a database, audio files, bundles and backups."""
