"""Services as people keep them: parts, rules, members, and how they stand."""
