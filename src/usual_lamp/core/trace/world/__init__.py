"""What light meets: geometry and its instances, joints, pictures, lights, the floor."""
