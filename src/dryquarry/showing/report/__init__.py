"""Reports: a folder of static pages, or one page, in which every number leads to the reply behind it."""
