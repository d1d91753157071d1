"""The ledger: schema, storing and queries. No SQL stands anywhere else."""
