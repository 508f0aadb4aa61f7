"""What is kept: peewee models, migrations, queries. The only place that knows SQL."""
