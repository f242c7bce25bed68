// Whether an answer is our server's: a proxy, a wall that asks for a sign-in, a page of the network's own answer too.

export const isOurs = (answer) => answer.headers.has("X-Request-ID");
