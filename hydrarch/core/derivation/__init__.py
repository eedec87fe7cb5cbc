"""The chain: from a plan to everything that follows from it, each room worked out when it is asked for; records of the
first format carried over.
"""
