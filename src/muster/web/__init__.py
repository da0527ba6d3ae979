"""The pages: a Django project, a package a stage."""
