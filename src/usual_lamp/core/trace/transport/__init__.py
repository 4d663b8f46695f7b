"""How light gets about: paths, shadow rays, nested bodies, walks in dense ones, the camera."""
