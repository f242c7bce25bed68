"""Lists that come from elsewhere: loads and interval consumption as CSV, read line by line, every bad line named."""
