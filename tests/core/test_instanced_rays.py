"""Rays against instances, against the same triangles written out and asked through embreex's own classes."""

from __future__ import annotations

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from scipy.spatial.transform import Rotation

from core.test_visibility import box, meshed
from usual_lamp.core.assembly.instanced_rays import Instances, MeshScene


def test_instances_answer_as_their_triangles_would() -> None:
    import trimesh

    random = np.random.default_rng(3)
    meshes = [box(8, 5, 3), meshed(trimesh.creation.icosphere(2, 3.0)), meshed(trimesh.creation.torus(4.0, 1.0))]
    scenes = [MeshScene(mesh) for mesh in meshes]
    placed, triangles, owners = [], [], []
    for number in range(40):
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.random(random_state=number).as_matrix()
        if number % 3 == 0:
            matrix[:3, 0] *= -1  # mirrored, as left and right parts are
        matrix[:3, 3] = random.uniform(-20, 20, 3)
        mesh = meshes[number % 3]
        placed.append((scenes[number % 3], matrix))
        corners = mesh.positions.astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
        triangles.append(corners[mesh.triangles])
        owners += [number] * len(mesh.triangles)
    flat = EmbreeScene()
    TriangleMesh(flat, np.concatenate(triangles).astype(np.float32))
    # Not a whole number of packets.
    origins = random.uniform(-40, 40, (5003, 3))
    directions = random.uniform(-20, 20, origins.shape) - origins
    directions /= np.linalg.norm(directions, axis=1, keepdims=True)
    hits = flat.run(origins.astype(np.float32), directions.astype(np.float32))
    expected = np.where(hits >= 0, np.array(owners)[hits], -1)
    instances = Instances(placed)
    found = instances.first(origins, directions)
    assert (found >= 0).sum() > 500
    # A ray along an edge may go either way.
    assert np.mean(found != expected) < 2e-3
    assert np.mean(instances.blocked(origins, directions) != (expected >= 0)) < 2e-3
    far = flat.run(origins.astype(np.float32), directions.astype(np.float32), query="DISTANCE")
    near = instances.blocked(origins, directions, np.full(len(origins), 15.0))
    assert np.mean(near != ((expected >= 0) & (far < 15.0))) < 2e-3
    assert near.sum() < (expected >= 0).sum()


def test_nothing_and_no_rays() -> None:
    nobody = Instances([])
    assert not nobody.blocked(np.zeros((5, 3)), np.ones((5, 3))).any()
    assert len(nobody.first(np.zeros((0, 3)), np.zeros((0, 3)))) == 0
