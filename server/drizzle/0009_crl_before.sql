-- A line that gives a CRL says what it takes the place of; of older lines that is not known.
update order_lines set change = change || '{"before": null}'::jsonb
where change->>'kind' = 'list-crl' and not change ? 'before';
--> statement-breakpoint
update order_lines set change = change || '{"before": null}'::jsonb
where change->>'kind' = 'renew-certificate' and not change ? 'before';
