-- Whether an event is there already is looked up by its number, however few there were when the plan was made: a plan made
-- in a young ledger would read all of it for each booking until the tables are counted again.
ALTER FUNCTION movements_came() SET enable_seqscan = off;
