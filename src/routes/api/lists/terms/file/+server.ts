import { z } from 'zod';
import { EXCHANGE_FORMS, type ExchangeForm } from '#core/terms/exchange';
import { actorOf, endpoint } from '#server/edge/edge';
import { exportedThesaurus, importThesaurus } from '#server/lists/thesaurus';

const formSchema = z.enum(Object.keys(EXCHANGE_FORMS) as [ExchangeForm, ...ExchangeForm[]]);

/** The thesaurus as a file. */
export const GET = endpoint(
  { query: z.object({ form: formSchema.default('ttl') }) },
  async ({ locals }, { form }) => {
    return new Response(await exportedThesaurus(locals.house.db, form), {
      headers: {
        'content-type': `${EXCHANGE_FORMS[form].type}; charset=utf-8`,
        'content-disposition': `attachment; filename="thesaurus.${form}"`,
      },
    });
  },
);

const LONGEST_FILE = 20_000_000;
const fileSchema = z.object({
  text: z.string().max(LONGEST_FILE),
  form: formSchema,
  mode: z.enum(['add', 'replace']),
  dry: z.boolean(),
});

/** What a file would change; or, where it is not dry, change it. */
export const POST = endpoint({ body: fileSchema, most: 2 * LONGEST_FILE }, async (event, wish) => {
  const { changes, given, operation } = await importThesaurus(
    event.locals.house.db,
    actorOf(event).id,
    wish,
  );
  return { changes, given, operation };
});
