"""Use cases: each public function is one transaction."""
