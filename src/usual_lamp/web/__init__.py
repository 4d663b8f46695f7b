"""HTTP: Flask blueprints, request and response models, the event stream, and the built front end."""
