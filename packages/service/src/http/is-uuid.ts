/** Is it a UUID as the database writes them (RFC 9562, 4)? Other texts are no ids of anything. */
export const isUuid = (text: string): boolean => /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(text);
