import { QueryClient, type InvalidateOptions, type InvalidateQueryFilters } from "@tanstack/react-query";

/** What the server answered, remembered: what was asked before a change and has not come yet is asked anew after it. */
export class Answers extends QueryClient {
  override invalidateQueries(filters: InvalidateQueryFilters = {}, options?: InvalidateOptions) {
    // By itself a first answer that is still on its way would count as one of after the change.
    const unanswered: InvalidateQueryFilters["predicate"] = (query) =>
      query.state.data === undefined && (filters.predicate?.(query) ?? true);
    void this.cancelQueries({ ...filters, predicate: unanswered }, { silent: true });
    return super.invalidateQueries(filters, options);
  }
}
