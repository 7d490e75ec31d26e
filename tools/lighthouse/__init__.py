"""An outside look at the pages, by a well-known tool from npm."""
