"""Starting and stopping: the private database server and the web server."""
