"""Long work as jobs: resumable, with progress and a log, run by a worker process."""
