"""A simulated chat: some people, channels, threads, a page in the browser, and Harquel as one who is written to."""
