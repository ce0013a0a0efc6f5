"""A simulated mail server: takes letters by SMTP, and shows them in the browser."""
