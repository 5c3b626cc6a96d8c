import {
  type InvalidateOptions,
  type InvalidateQueryFilters,
  QueryClient,
  type QueryKey,
} from "@tanstack/react-query";

/**
 * The answers the browser holds. What is still on its way when something changes may be from before
 * the change, so it does not count: left alone it would be waited for as long as nothing has been
 * shown yet, and shown as if it were new.
 */
export class Answers extends QueryClient {
  override async invalidateQueries<Key extends QueryKey = QueryKey>(
    filters?: InvalidateQueryFilters<Key>,
    options?: InvalidateOptions,
  ): Promise<void> {
    await this.cancelQueries(filters);
    await super.invalidateQueries(filters, options);
  }
}
