"""Every operation on a plan, one module each: what is moved, split, joined, filled, graded, or fixed by one press."""
