"""Records in MariaDB: models, sessions, migrations and the services that write them."""
