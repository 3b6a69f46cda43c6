DROP TRIGGER count_inserted_items ON items;--> statement-breakpoint
DROP TRIGGER count_updated_items ON items;--> statement-breakpoint
DROP TRIGGER count_deleted_items ON items;--> statement-breakpoint
DROP FUNCTION count_items();--> statement-breakpoint
DROP FUNCTION add_item_counts(counted_item[]);--> statement-breakpoint
DROP TYPE counted_item;--> statement-breakpoint
DROP TABLE "item_counts" CASCADE;--> statement-breakpoint
DROP TABLE "prefix_counts" CASCADE;--> statement-breakpoint
DROP INDEX "items_document";--> statement-breakpoint
ALTER TABLE "items" DROP COLUMN "document";