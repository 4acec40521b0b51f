"""Makes `vocabulary.json` anew from the words of all languages: `python -m lazy_magpie.words`."""

from lazy_magpie.words.languages import all_rows
from lazy_magpie.words.vocabulary import FILE, of_rows, written

if __name__ == "__main__":
    FILE.write_text(written(of_rows(all_rows())), "utf-8")
