"""HTTP on the loopback: thin routes over the use cases, schemas, security, the built front end."""
