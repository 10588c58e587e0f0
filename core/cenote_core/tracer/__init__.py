"""A path tracer for dressed sites, written on Dr.Jit: triangles, pictures and tables in, light out.

Surfaces are worked out where rays meet them, from flat tables (`tables.py`) by one function without branches over
kinds of surface. So a kernel does not depend on what stands on a site: it is compiled once and found on disk by every
later process. Rays are cast by Mitsuba's scene, which is nothing but triangles here.
"""
