"""MariaDB: tables, migrations, queries. One module a subject."""
