"""What every panel is built of: colours, icons, fields, guards."""
