"""What `./lamp` does before the application's own Python exists: the standard library alone.

`places` knows the folders, `debian` the system's packages, `environment` the virtual environment,
`cluster` the private PostgreSQL, `serving` the application's process, `verbs` the commands.
"""
