-- What trust lists held, and who changed them, is only ever added to.
CREATE TRIGGER trust_history_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON "trust_history" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
