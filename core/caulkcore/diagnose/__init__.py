"""What is wrong with a mesh: a module for each kind of defect."""
