"""Records in MariaDB: tables, queries, sessions and migrations."""
