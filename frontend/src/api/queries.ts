import { QueryClient } from "@tanstack/react-query";

/** Queries that no write overtakes: what was on its way for the first time when it was made is asked for once more. */
export class Queries extends QueryClient {
  override async invalidateQueries(
    ...[filters, options]: Parameters<QueryClient["invalidateQueries"]>
  ): Promise<void> {
    // The client itself asks again only where there is an answer already; one that left before the write says what was.
    const early = this.getQueryCache()
      .findAll(filters)
      .filter((query) => query.state.data === undefined && query.state.fetchStatus === "fetching");
    await super.invalidateQueries(filters, options);
    for (const query of early) {
      await query.promise?.catch(() => undefined);
      await super.invalidateQueries({ queryKey: query.queryKey, exact: true }, options);
    }
  }
}
