"""Work beside the window: threads, frames made ready, bursts that become one, errors that nobody foresaw."""
