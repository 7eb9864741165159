CREATE INDEX "authorities_by_crl" ON "authorities" USING btree ("crl_id");--> statement-breakpoint
CREATE INDEX "client_certificates_by_certificate" ON "client_certificates" USING btree ("thumbprint");--> statement-breakpoint
CREATE INDEX "machine_locks_by_server" ON "machine_locks" USING btree ("server_id");--> statement-breakpoint
CREATE INDEX "order_lines_by_holder" ON "order_lines" USING btree (("change"->>'holderId'));--> statement-breakpoint
CREATE INDEX "order_lines_by_state" ON "order_lines" USING btree ("state");--> statement-breakpoint
CREATE INDEX "sign_ins_by_person" ON "sign_ins" USING btree ("person");