"""What menus and shortcuts do: every command in one table, and the edits behind them."""
