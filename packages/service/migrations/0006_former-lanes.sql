CREATE TABLE "former_lanes" (
	"id" uuid PRIMARY KEY NOT NULL,
	"slug" text NOT NULL,
	"since" timestamp with time zone DEFAULT now() NOT NULL
);
