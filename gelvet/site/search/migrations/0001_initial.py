"""The full-text index. Unindexed columns carry what a hit shows; the tokenizer ignores accents."""

from django.db import migrations


class Migration(migrations.Migration):
    initial = True
    dependencies = [("bench", "0002_plans_and_bench_book"), ("library", "0002_ranges_brushes_targets")]
    operations = [
        migrations.RunSQL(
            "CREATE VIRTUAL TABLE search_index USING fts5(kind UNINDEXED, key UNINDEXED, title, body, url UNINDEXED, "
            "tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3')",
            "DROP TABLE search_index",
        ),
    ]
