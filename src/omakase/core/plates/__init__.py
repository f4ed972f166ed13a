"""One plate solver for every panel: three-layer sandwich or first-order shear, p-version on a tensor grid."""
