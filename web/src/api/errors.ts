/** One error for every failed request; its message is shown to the user as it is. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What kind of failure it is, where the screen can offer a way on. */
    readonly reason = "",
  ) {
    super(message);
  }
}
