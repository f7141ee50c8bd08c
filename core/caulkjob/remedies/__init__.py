"""What can be done about the findings: a module for each family of remedies.

Each remedy chooses what the places of a finding are about, hands that to `caulkcore`, and tells
what came of it in sentences.
"""
