"""What is asked of the tracer: stills, the live picture, plates, surveys, remarks."""
