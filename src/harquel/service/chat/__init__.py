"""Questions and answers where a team chats: heard as signed messages, told in a form of the chat's own."""
