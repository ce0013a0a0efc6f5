"""What can be done about chats: linking oneself, and ending that."""
