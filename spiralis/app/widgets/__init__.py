"""Small widgets and dialogs that more than one panel uses."""
