"""The computation. Imports no web framework, database, HTTP or clock; takes and gives plain values.

Imports inside the core point one way: catalogue, units <- plan <- layout <- hydraulics <- sizing <- joining <- cutting
<- making <- proving.
"""
