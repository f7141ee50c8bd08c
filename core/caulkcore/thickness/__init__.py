"""Wall thickness by ball and ray, thin regions, and moving walls out."""
