import { eq } from 'drizzle-orm';
import type { App } from '../app.ts';
import { notFound } from '../http/problem.ts';
import { systems } from '../storage/schema.ts';
import type { SystemRow } from './registry.ts';

/** @throws HttpProblem 404 naming the systems that there are */
export async function findSystem(app: App, slug: string): Promise<SystemRow> {
  const [row] = await app.db.select().from(systems).where(eq(systems.slug, slug));
  if (row !== undefined) return row;
  const all = await app.db.select({ slug: systems.slug }).from(systems);
  throw notFound(
    'system',
    slug,
    all.map((s) => s.slug),
  );
}
