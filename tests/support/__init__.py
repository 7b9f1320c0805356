"""What tests share: scenes as data, lay-ups to put together, and a reader of the pages."""
