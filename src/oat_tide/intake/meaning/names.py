"""What the name of a column says of it: a measure, a code, a price, a stock, a scenario."""

from __future__ import annotations

import re

from oat_tide.core.series.panel import Totalled

_MEASURE = (
    r"cases?|units?|qty|quantit\w*|sales?|sold|volumes?|amounts?|values?|demand|revenues?|turnover|pieces?|pcs"
    r"|lit(?:re|er)s?|kilos?|kg|tons?|tonnes?|counts?|figure|net|gross|umsatz|menge|absatz|stück|betrag|ventes?"
    r"|quantité|montant|vendite|quantità|importo|ventas?|cantidad|importe|vendas|quantidade|aantal|omzet"
)
_CODE = (
    r"ids?|nr|no|num|numbers?|codes?|keys?|row|index|post\w*|zip|plz|phone|sku|ean|gtin|article|artikel|account"
    r"|konto|customer|cust|kunde\w*|client|store|shop|branch|filiale|ref|reference|invoice|order|version|line"
    r"|years?|months?|weeks?|days?|quarters?"
)
_ITEM = (
    r"items?|sku|ean|gtin|article\w*|artikel\w*|articolo|art[ií]culo|artigo|products?|produ[kc]t\w*|produit|prodotto"
    r"|material\w*|part|parts|goods|plu|upc"
)
_MEAN = (
    r"prices?|rates?|percent\w*|pct|average|avg|mean|ratio|index|temperature|preise?"
    r"|prix|precios?|prezz\w+"
)
_LAST = (
    r"stocks?|inventory|on hand|balance|level|backlog|headcount|opening|closing|bestand|lager\w*|stocké?"
    r"|inventaire|existencias|giacenza|voorraad"
)
_MEASURES, _CODES, _ITEMS, _MEANS, _LASTS = (
    re.compile(rf"\b(?:{words})\b", re.I) for words in (_MEASURE, _CODE, _ITEM, _MEAN, _LAST)
)
_SOLD = re.compile(r"\b(?:sold|sales?|order(?:ed)?s?)\b", re.I)
_DATED = re.compile(r"date|day|sold|ordered|shipped|invoiced|datum|fecha|data\b", re.I)
_TOTAL = (
    r"totals?|totale|totali|totales|totais|totaux|totaal|totalt|sums?|summe|somme|suma|soma|sum|gesamt"
    r"|gesamtsumme|endsumme|gesamtergebnis|insgesamt|ensemble|jahressumme|jahresgesamt|zusammen|celkem|spolu"
    r"|razem|ogółem|łącznie|összesen|yhteensä|kaikki|toplam|ukupno|skupaj|kokku|kopā|iš viso|i alt|σύνολο"
    r"|итого|всего|общо|разом|усього"
)
_TOTAL_BEFORE = r"grand |sub-?|overall |zwischen|sous-|gran |"
TOTAL_BEGINS = rf"(?i)^(?:{_TOTAL_BEFORE})(?:{_TOTAL})\b"
"""What begins so where a date should stand makes its line a total."""
TOTAL_ALONE = rf"(?i)^(?:{_TOTAL_BEFORE})(?:{_TOTAL}):?(?: (?:general|general[ei]|général|\d{{4}}))?:?$"
"""A cell that says no more makes its line a total."""
TOTAL_OF = (
    rf"(?i)^(?:(?:{_TOTAL_BEFORE})(?:{_TOTAL})[ :]+(?:of |für |de |di |du |des |van )?(.+)"
    rf"|(.+?)[ :]+(?:{_TOTAL}):?)$"
)
"""A total of what stands before or after the word."""
TOTAL_STEMS = [
    "total", "totaa", "totaux", "sum", "som", "gesamt", "ensemble", "zusammen", "celkem", "spolu", "razem",
    "ogó", "łącz", "összes", "yhteen", "kaikki", "toplam", "ukupno", "skupaj", "kokku", "kopā", "viso",
    "i alt", "σύνολο", "итого", "всего", "общо", "разом", "усього",
    "Σύνολο", "Итого", "Всего", "Общо", "Разом", "Усього",
]  # fmt: skip
"""Pieces of those words, one of which every such cell has."""
TOTAL_WITHIN = rf"(?i)(?:^|\W)(?:{_TOTAL})(?:$|\W)"
"""A cell in which the word stands."""
SCENARIOS = re.compile(r"^(actuals?|act|budget|bud|plan|forecast|fc|last forecast|target|outlook)\b", re.I)
ACTUALS = re.compile(r"^(actuals?|act)\b", re.I)


KINDS = ("fitted", "projected")
"""The kinds of row that a command writes: they are scenarios of one measure, the first makes the history."""
_LIMIT = re.compile(r"^(?:lower|upper)_\d+(?:\.\d+)?$")


def is_limit(name: str) -> bool:
    """Whether a column holds the limits of an interval, as a command writes them."""
    return bool(_LIMIT.match(name))


def _words(name: str) -> str:
    """The words of a name: product_code and productCode are two each."""
    return re.sub(r"(?<=[a-z])(?=[A-Z])|[_\W]+", " ", name)


def is_measure(name: str) -> bool:
    """Whether a name is that of something to add up."""
    return bool(_MEASURES.search(_words(name)))


def is_code(name: str) -> bool:
    """Whether a name is that of numbers that name something."""
    return bool(_CODES.search(_words(name)))


def is_item(name: str) -> bool:
    """Whether a name is that of what is sold, so that numbers under it are codes."""
    return bool(_ITEMS.search(_words(name))) and not is_measure(name)


def is_scenario(name: str) -> bool:
    """Whether a name is that of a budget or forecast."""
    return bool(SCENARIOS.search(name)) and not ACTUALS.search(name)


def suited(name: str) -> Totalled:
    """How figures of this name make the figure of a period: prices by their mean, stocks by the last."""
    words = _words(name)
    if "%" in name or _MEANS.search(words):
        return "mean"
    return "last" if _LASTS.search(words) else "sum"


def is_dated(name: str) -> bool:
    """Whether a name is that of a date."""
    return bool(_DATED.search(name))


def is_of_sale(name: str) -> bool:
    """Whether a name is that of the date of a sale."""
    return bool(_SOLD.search(_words(name)))


def is_total(name: str) -> bool:
    """Whether a column is called a total."""
    return bool(re.match(TOTAL_ALONE, name.strip()) or re.match(TOTAL_OF, name.strip()))


def could_be_member(name: str) -> bool:
    """Whether a column of numbers may be named for what its figures are of, such as a product."""
    return not is_total(name) and not (
        is_measure(name) or is_code(name) or suited(name) != "sum" or name.startswith("column ")
    )
