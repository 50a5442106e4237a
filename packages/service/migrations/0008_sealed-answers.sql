-- Answers are kept sealed from now on; those of the last day were in the clear.
DELETE FROM "idempotency";
