"""What `./lamp` does before the application's own Python exists: the standard library alone.

`places` knows the folders, `debian` the system's packages, `environment` the virtual environment,
`cluster` the private PostgreSQL, `verbs` the commands.
"""
