"""Quotes are right to the cent and add up."""

import unittest
from dataclasses import replace
from decimal import Decimal

from northpace.schedule.quote import PricedBed, QuotedPieces, breaks, cents, quoted
from northpace.schedule.rates import OrderRates
from tests.schedule.made import bed

RATES = OrderRates(
    machine_h=2, hands_h=30, setup_min=10, packing_min=6, finishing_min=2, margin=20, rush=50
)
CUPS = QuotedPieces(
    "cup",
    40,
    (PricedBed(bed("a", 0.5, 10, grams=12), 20.0, 2.0, spool_change_min=0),),
    fails=0.0,
    finishing_min=2.0,
    learned=False,
)


class Quoted(unittest.TestCase):
    def amounts(self, quote):
        return {term.name: term.amount for part in quote.parts for term in part.terms} | {
            term.name: term.amount for term in quote.terms
        }

    def test_every_term_by_hand(self):
        found = self.amounts(quoted([CUPS], RATES))
        self.assertEqual(
            found,
            {
                "Machine": Decimal("40.00"),  # 40 × 0.5 h at 2 €/h
                "Filament": Decimal("9.60"),  # 480 g at 20 €/kg
                "Bed changes": Decimal("10.00"),  # 4 of 5 min at 30 €/h
                "Finishing": Decimal("40.00"),
                "Setting up": Decimal("5.00"),
                "Packing": Decimal("3.00"),
                "Margin": Decimal("21.52"),  # 20 % of 107.60 €
            },
        )

    def test_the_total_is_the_sum_of_its_terms(self):
        spools = replace(CUPS.beds[0], purge_g=4, spool_change_min=5)
        odd = replace(CUPS, pieces=37, fails=0.07, beds=(spools,), learned=True)
        quote = quoted([odd, replace(CUPS, name="lid", pieces=3)], RATES, urgent=True)
        terms = [term for part in quote.parts for term in part.terms] + list(quote.terms)
        self.assertEqual(quote.total, sum(term.amount for term in terms))
        self.assertEqual({term.amount.as_tuple().exponent for term in terms}, {-2})
        self.assertIn("Rush", {term.name for term in quote.terms})
        self.assertEqual(quote.parts[0].laid, 40)

    def test_failures_cost_what_more_pieces_cost(self):
        failing = self.amounts(quoted([replace(CUPS, fails=0.2)], RATES))
        # a quarter more pieces of 99.60 €, without setting up
        self.assertEqual(failing["Failures"], cents((40 + 9.6 + 10) / 4))

    def test_more_pieces_cost_less_each(self):
        prices = [price for _, price in breaks(CUPS, RATES)]
        self.assertEqual(prices, sorted(prices, reverse=True))
        self.assertEqual(prices[0], quoted([replace(CUPS, pieces=1)], RATES).total)

    def test_half_a_cent_is_rounded_up(self):
        self.assertEqual(
            [str(cents(x)) for x in (0.005, 1.005, 2.674999)], ["0.01", "1.01", "2.67"]
        )

    def test_the_cheaper_of_two_machines(self):
        slow = PricedBed(bed("b", 3, 10, grams=12), 20.0, 2.0)
        quote = quoted([replace(CUPS, beds=(slow, *CUPS.beds))], RATES)
        self.assertEqual((quote.parts[0].machine, quote.parts[0].beds), ("a", 4))

    def test_a_machine_costs_what_it_says_of_itself(self):
        dear = PricedBed(bed("b", 0.4, 10, grams=12), 20.0, 9.0)
        quote = quoted([replace(CUPS, beds=(dear, *CUPS.beds))], RATES)
        self.assertEqual(quote.parts[0].machine, "a")
