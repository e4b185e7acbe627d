import { failureResponse } from '../answers';
import { assertAllowed } from '../served/guard';
import { rootsFrom } from '../served/roots';
import { servedFolders } from '../served/served-folders';

async function handle({ request, params }: { request: Request; params: { what?: string } }): Promise<Response> {
  try {
    const roots = await rootsFrom(process.env.REGRESSUM_ROOTS);
    assertAllowed(request, roots.length > 0 ? process.env.REGRESSUM_TOKEN : undefined);
    return await servedFolders(request, params.what ?? '', roots);
  } catch (error) {
    return failureResponse(error);
  }
}

export const loader = handle;
export const action = handle;
