// Made by npm run openapi-types: edit the shapes instead.

export interface paths {
    "/api/v1/session": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Who is signed in */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            email: string;
                            name: string;
                            /** @enum {string} */
                            role: "viewer" | "operator" | "administrator";
                            mustChangePassword: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Sign in with address and password */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        email: string;
                        password: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            email: string;
                            name: string;
                            /** @enum {string} */
                            role: "viewer" | "operator" | "administrator";
                            mustChangePassword: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Sign out */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/session/ways": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** How one can sign in, besides with a password */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            provider: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/session/password": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /** Change your password; your other sessions end */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        current: string;
                        password: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sessions": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Signed-in browsers: yours, or for an administrator everybody’s */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                email: string;
                                agent: string;
                                current: boolean;
                                /** Format: date-time */
                                createdAt: string;
                                /** Format: date-time */
                                lastUsedAt: string;
                                /** Format: date-time */
                                expiresAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/sessions/{session}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /** End a session */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    session: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/tokens": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Tokens: yours, or for an administrator everybody’s */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                name: string;
                                may: string;
                                email: string;
                                /** Format: date-time */
                                createdAt: string;
                                /** Format: date-time */
                                expiresAt: string | null;
                                /** Format: date-time */
                                lastUsedAt: string | null;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Make a token; it is shown this once */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name: string;
                        /** @enum {string} */
                        may?: "read" | "operate" | "write";
                        days?: number | null;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            name: string;
                            may: string;
                            email: string;
                            /** Format: date-time */
                            createdAt: string;
                            /** Format: date-time */
                            expiresAt: string | null;
                            /** Format: date-time */
                            lastUsedAt: string | null;
                            token: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/tokens/{token}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /** Withdraw a token */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    token: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/people": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Who may sign in, and what they may */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                email: string;
                                name: string;
                                /** @enum {string} */
                                role: "viewer" | "operator" | "administrator";
                                disabled: boolean;
                                password: boolean;
                                /** Format: date-time */
                                lockedUntil: string | null;
                                /** Format: date-time */
                                lastSeenAt: string | null;
                                lanes: string[];
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Let somebody in */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        email: string;
                        name: string;
                        /** @enum {string} */
                        role: "viewer" | "operator" | "administrator";
                        password?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            email: string;
                            name: string;
                            /** @enum {string} */
                            role: "viewer" | "operator" | "administrator";
                            disabled: boolean;
                            password: boolean;
                            /** Format: date-time */
                            lockedUntil: string | null;
                            /** Format: date-time */
                            lastSeenAt: string | null;
                            lanes: string[];
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/people/{person}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /** Remove somebody, with their sessions and tokens */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    person: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        /** Change what somebody may, their name or how they sign in; disable, enable or unlock them */
        patch: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    person: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name?: string;
                        /** @enum {string} */
                        role?: "viewer" | "operator" | "administrator";
                        password?: string;
                        disabled?: boolean;
                        unlock?: boolean;
                        provider?: boolean;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            email: string;
                            name: string;
                            /** @enum {string} */
                            role: "viewer" | "operator" | "administrator";
                            disabled: boolean;
                            password: boolean;
                            /** Format: date-time */
                            lockedUntil: string | null;
                            /** Format: date-time */
                            lastSeenAt: string | null;
                            lanes: string[];
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        trace?: never;
    };
    "/api/v1/lanes/{lane}/owner": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        /** Say who arranges a lane, besides administrators; null: nobody */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        email: string | null;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/activity": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Who did what, newest first */
        get: {
            parameters: {
                query?: {
                    by?: string;
                    lane?: string;
                    cursor?: string;
                    limit?: number;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: number;
                                /** Format: date-time */
                                at: string;
                                by: string;
                                via: string;
                                what: string;
                                of: string;
                                detail: string;
                                /** @enum {string} */
                                outcome: "done" | "refused";
                                lane: string | null;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/pause": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Is everything paused? */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** Format: date-time */
                            at: string;
                            by: string;
                            why: string;
                        } | null;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Pause everything at once, and say why: nothing more is written to any system */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        why: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** Format: date-time */
                            at: string;
                            by: string;
                            why: string;
                        } | null;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        /** Resume everything that was paused at once */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/settings": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What is kept how long */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            keep?: {
                                idleRuns: number;
                                runs: number;
                                journal: number;
                                activity: number;
                                audits: number;
                            };
                            mailEvery: number;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Change what is kept how long */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            keep?: {
                                idleRuns: number;
                                runs: number;
                                journal: number;
                                activity: number;
                                audits: number;
                            };
                            mailEvery: number;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/settings/reseal": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Seal every stored secret with the first key, so that the others can go */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            resealed: number;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/session/told": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What you are notified of */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                            digest: {
                                hour: number;
                                zone: string;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Set what you are notified of, and when your daily digest comes */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                        digest?: {
                            hour: number;
                            zone: string;
                        } | null;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                            digest: {
                                hour: number;
                                zone: string;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Webhooks to other programs */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                name: string;
                                url: string;
                                occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                                /** Format: date-time */
                                lastAt: string | null;
                                lastOutcome: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Notify another program with signed webhooks; the secret is shown only once */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name: string;
                        url: string;
                        occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            name: string;
                            url: string;
                            occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                            /** Format: date-time */
                            lastAt: string | null;
                            lastOutcome: string | null;
                            /** Format: date-time */
                            createdAt: string;
                            secret: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks/{webhook}/test": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Post a test to a webhook */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    webhook: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            name: string;
                            url: string;
                            occasions: ("needs a person" | "lane stopped" | "credentials" | "allowance")[];
                            /** Format: date-time */
                            lastAt: string | null;
                            lastOutcome: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/webhooks/{webhook}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        post?: never;
        /** Tell another program nothing more */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    webhook: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/failures": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What failed, by reason */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                reason: string;
                                condition: string;
                                count: number;
                                items: {
                                    recordId: string | null;
                                    href: string | null;
                                    moment: string;
                                    label: string;
                                    value: string;
                                }[];
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/retry": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Try again what failed: everything, or what failed for one reason */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        reason?: string;
                        condition?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/audits": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Past audits, newest first: how far both sides were apart */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                /** Format: date-time */
                                at: string;
                                cause: string;
                                differences: number;
                                addsUp: boolean;
                                counts: Record<string, unknown>;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/counts": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Items by day, week or month: of lanes, of a collection, or of a calendar */
        get: {
            parameters: {
                query: {
                    step?: "day" | "week" | "month";
                    from: string;
                    until: string;
                    zone?: string;
                    lane?: string;
                    system?: string;
                    collection?: string;
                    calendar?: string;
                    date?: string;
                    by?: string;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** @enum {string} */
                            step: "day" | "week" | "month";
                            steps: string[];
                            groups: {
                                name: string;
                                counts: number[];
                                total: number;
                            }[];
                            total: number;
                            lately: {
                                week: number;
                                weekBefore: number;
                                month: number;
                                monthBefore: number;
                            };
                            complete: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/counts/export": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The same counts as CSV */
        get: {
            parameters: {
                query: {
                    step?: "day" | "week" | "month";
                    from: string;
                    until: string;
                    zone?: string;
                    lane?: string;
                    system?: string;
                    collection?: string;
                    calendar?: string;
                    date?: string;
                    by?: string;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": unknown;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/journal/export": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The journal as CSV or JSON, oldest first; without values unless they are asked for */
        get: {
            parameters: {
                query?: {
                    format?: "csv" | "json";
                    lane?: string;
                    run?: string;
                    since?: string;
                    values?: boolean;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": unknown;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/today": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What needs attention now */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            paused: {
                                /** Format: date-time */
                                at: string;
                                by: string;
                                why: string;
                            } | null;
                            holds: {
                                id: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                                choices: string[];
                                cause: string;
                                /** @description event properties by name */
                                record: Record<string, unknown>;
                                /** @description event properties by name */
                                event: Record<string, unknown>;
                                /** @description the values on which both sides last agreed */
                                baseline: Record<string, unknown> | null;
                                candidates: {
                                    choice: string;
                                    /** @description event properties by name */
                                    values: Record<string, unknown>;
                                }[];
                                state: string;
                                choice: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            failed: {
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                                when: unknown;
                                verdict: {
                                    /** @enum {string} */
                                    reason: "no date" | "filtered out" | "private" | "before the start line" | "out of the window" | "unfit value" | "several candidates" | "no longer followed" | "refused by the system" | "unreadable event" | "repeating" | "made by another lane" | "duplicate UID" | "not made here" | "unexpected error";
                                    condition: string;
                                    value: string;
                                    /** Format: date-time */
                                    recheckAt: string | null;
                                    /** Format: date-time */
                                    at: string;
                                } | null;
                                /** Format: date-time */
                                updatedAt: string;
                            }[];
                            heldRuns: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            troubles: {
                                noun: string;
                                slug: string;
                                name: string;
                                detail: string;
                            }[];
                            lanes: {
                                id: string;
                                slug: string;
                                version: number;
                                /** @enum {string} */
                                state: "running" | "paused";
                                owner: string | null;
                                recordsName: string;
                                calendarName: string;
                                pairs: number;
                                leftOut: number;
                                failed: number;
                                holds: number;
                                trouble: string | null;
                                failures: number;
                                /** Format: date-time */
                                lastRunAt: string | null;
                                /** Format: date-time */
                                nextRunAt: string | null;
                                lastRun: {
                                    id: string;
                                    lane: string;
                                    laneName: string;
                                    laneVersion: number;
                                    cause: string;
                                    scope: string;
                                    /** @enum {string} */
                                    state: "waiting" | "running" | "done" | "failed" | "held";
                                    reason: string | null;
                                    counts: {
                                        created: number;
                                        changed: number;
                                        removed: number;
                                        adopted: number;
                                        inSync: number;
                                        unlinked: number;
                                        held: number;
                                        unchanged: number;
                                        leftOut: number;
                                        failed: number;
                                    };
                                    planned: number;
                                    done: number;
                                    /** Format: date-time */
                                    startedAt: string | null;
                                    /** Format: date-time */
                                    endedAt: string | null;
                                    /** Format: date-time */
                                    createdAt: string;
                                } | null;
                                delay: {
                                    median: number;
                                    most: number;
                                    count: number;
                                } | null;
                                definition: {
                                    name: string;
                                    /** @enum {string} */
                                    direction: "->" | "<-" | "<->";
                                };
                            }[];
                            byHour: {
                                lane: string;
                                hours: number[];
                            }[];
                            crossed: {
                                id: number;
                                run: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                kind: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                                removed: string | null;
                                laneVersion: number;
                                /** Format: date-time */
                                at: string;
                            }[];
                            crossedCount: number;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/health": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Is the service well? */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            ok: boolean;
                            version: string;
                            tzdata: string;
                            database: boolean;
                            jobs: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/kinds": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The kinds of systems that can be connected, with their settings */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                kind: string;
                                label: string;
                                hint: string;
                                settings: Record<string, unknown>[];
                                secrets: Record<string, unknown>[];
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** All systems */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                slug: string;
                                name: string;
                                kind: string;
                                address: string;
                                offers: string[];
                                push: boolean;
                                health: {
                                    /** @enum {string} */
                                    state: "unknown" | "well" | "failing";
                                    detail: string;
                                    /** Format: date-time */
                                    at: string | null;
                                };
                                lapsed: {
                                    /** Format: date-time */
                                    at: string;
                                    reason: string;
                                } | null;
                                calls: {
                                    month: string;
                                    used: number;
                                    allowance: number | null;
                                };
                                /** @enum {string|null} */
                                consent: "needed" | "given" | null;
                                /** Format: date-time */
                                authorisedAt: string | null;
                                drift: {
                                    /** Format: date-time */
                                    at: string;
                                    collection: string;
                                    field: string;
                                    what: string;
                                }[];
                                /** @description as its kind has them */
                                settings: Record<string, unknown>;
                                secrets: string[];
                                /** Format: date-time */
                                checkedAt: string | null;
                                lanes: string[];
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Connect a system */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug: string;
                        name: string;
                        kind: string;
                        settings: Record<string, unknown>;
                        secrets: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            name: string;
                            kind: string;
                            address: string;
                            offers: string[];
                            push: boolean;
                            health: {
                                /** @enum {string} */
                                state: "unknown" | "well" | "failing";
                                detail: string;
                                /** Format: date-time */
                                at: string | null;
                            };
                            lapsed: {
                                /** Format: date-time */
                                at: string;
                                reason: string;
                            } | null;
                            calls: {
                                month: string;
                                used: number;
                                allowance: number | null;
                            };
                            /** @enum {string|null} */
                            consent: "needed" | "given" | null;
                            /** Format: date-time */
                            authorisedAt: string | null;
                            drift: {
                                /** Format: date-time */
                                at: string;
                                collection: string;
                                field: string;
                                what: string;
                            }[];
                            /** @description as its kind has them */
                            settings: Record<string, unknown>;
                            secrets: string[];
                            /** Format: date-time */
                            checkedAt: string | null;
                            lanes: string[];
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/check": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Check a system before it is connected; nothing is kept */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        kind: string;
                        settings: Record<string, unknown>;
                        secrets: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            ok: boolean;
                            steps: {
                                name: string;
                                /** @enum {string} */
                                outcome: "ok" | "warning" | "failed";
                                detail: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** One system */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            name: string;
                            kind: string;
                            address: string;
                            offers: string[];
                            push: boolean;
                            health: {
                                /** @enum {string} */
                                state: "unknown" | "well" | "failing";
                                detail: string;
                                /** Format: date-time */
                                at: string | null;
                            };
                            lapsed: {
                                /** Format: date-time */
                                at: string;
                                reason: string;
                            } | null;
                            calls: {
                                month: string;
                                used: number;
                                allowance: number | null;
                            };
                            /** @enum {string|null} */
                            consent: "needed" | "given" | null;
                            /** Format: date-time */
                            authorisedAt: string | null;
                            drift: {
                                /** Format: date-time */
                                at: string;
                                collection: string;
                                field: string;
                                what: string;
                            }[];
                            /** @description as its kind has them */
                            settings: Record<string, unknown>;
                            secrets: string[];
                            /** Format: date-time */
                            checkedAt: string | null;
                            lanes: string[];
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        /** Disconnect a system that no lane uses */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        /** Change the name, settings or secrets of a system; what is not given stays, and what is given as null is taken away */
        patch: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name?: string;
                        settings?: Record<string, unknown>;
                        secrets?: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            name: string;
                            kind: string;
                            address: string;
                            offers: string[];
                            push: boolean;
                            health: {
                                /** @enum {string} */
                                state: "unknown" | "well" | "failing";
                                detail: string;
                                /** Format: date-time */
                                at: string | null;
                            };
                            lapsed: {
                                /** Format: date-time */
                                at: string;
                                reason: string;
                            } | null;
                            calls: {
                                month: string;
                                used: number;
                                allowance: number | null;
                            };
                            /** @enum {string|null} */
                            consent: "needed" | "given" | null;
                            /** Format: date-time */
                            authorisedAt: string | null;
                            drift: {
                                /** Format: date-time */
                                at: string;
                                collection: string;
                                field: string;
                                what: string;
                            }[];
                            /** @description as its kind has them */
                            settings: Record<string, unknown>;
                            secrets: string[];
                            /** Format: date-time */
                            checkedAt: string | null;
                            lanes: string[];
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        trace?: never;
    };
    "/api/v1/systems/{system}/check": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Check a system step by step; with "Accept: text/event-stream" each step as it comes */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            ok: boolean;
                            steps: {
                                name: string;
                                /** @enum {string} */
                                outcome: "ok" | "warning" | "failed";
                                detail: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/collections": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The collections of a system with their fields */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                name: string;
                                label: string;
                                fields: {
                                    name: string;
                                    label: string;
                                    /** @enum {string} */
                                    type: "text" | "long text" | "number" | "yes/no" | "choice" | "choices" | "date" | "time" | "date-time" | "duration" | "person" | "people" | "reference" | "references" | "web address" | "place";
                                    choices?: string[];
                                    unit?: string;
                                    readOnly?: boolean;
                                    limit?: number;
                                }[];
                                may: {
                                    create: boolean;
                                    change: boolean;
                                    remove: boolean;
                                };
                                /** @enum {string} */
                                retries: "key" | "none";
                                stamps: {
                                    created: boolean;
                                    modified: boolean;
                                };
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/calendars": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The calendars of a system */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                href: string;
                                name: string;
                                colour: string | null;
                                writable: boolean;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Make a calendar or a task list */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name: string;
                        colour?: string | null;
                        /** @enum {string} */
                        holds?: "events" | "tasks";
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            href: string;
                            name: string;
                            colour: string | null;
                            writable: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        /** Give a calendar another name or colour */
        patch: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        calendar: string;
                        name?: string;
                        colour?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            href: string;
                            name: string;
                            colour: string | null;
                            writable: boolean;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        trace?: never;
    };
    "/api/v1/systems/{system}/tracking/{collection}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** How a collection of a database tells its changes, and the statements that would improve it */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                    collection: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** @enum {string|null} */
                            state: "installed" | "possible" | null;
                            now: string;
                            install: string;
                            uninstall: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Install the triggers that tell changes */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                    collection: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** @enum {string|null} */
                            state: "installed" | "possible" | null;
                            now: string;
                            install: string;
                            uninstall: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Take the triggers away again */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                    collection: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** @enum {string|null} */
                            state: "installed" | "possible" | null;
                            now: string;
                            install: string;
                            uninstall: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/try": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Try everything that the settings tell of a system, reading only, with each request and answer */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            ok: boolean;
                            steps: {
                                name: string;
                                /** @enum {string} */
                                outcome: "ok" | "warning" | "failed";
                                detail: string;
                                exchanges: Record<string, unknown>[];
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/calls": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The last calls of a system, newest first, without bodies and secrets */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                /** Format: date-time */
                                at: string;
                                method: string;
                                url: string;
                                status: number | null;
                                took: number;
                                sent: number;
                                received: number;
                                trouble: string | null;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/consent": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Begin to authorise Monsoon at a system; the answer says where a person consents */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        back?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            url: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/mail": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Send a mail for trying */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        to: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/descriptors/draft": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** A first descriptor from an OpenAPI document */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        /** @description an OpenAPI 3 document */
                        document: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            descriptor: Record<string, unknown>;
                            notes: string[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/descriptors/schema": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** A JSON Schema of descriptors, for editors */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": Record<string, unknown>;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/systems/{system}/collections/{collection}/sample": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What the fields of a collection hold, and records worth looking at */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    system: string;
                    collection: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            read: number;
                            complete: boolean;
                            fields: {
                                name: string;
                                label: string;
                                type: string;
                                filled: number;
                                values: {
                                    value: string;
                                    count: number;
                                }[];
                            }[];
                            items: {
                                id: string;
                                about: string;
                                /** @description what each field says */
                                fields: Record<string, unknown>;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/starters": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Prepared lanes for common needs */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                /** @enum {string} */
                                slug: "activities" | "due-tasks" | "several-dates" | "time-log" | "absences" | "calendar-to-table" | "words-to-status" | "feed-to-table" | "table-to-calendar";
                                name: string;
                                hint: string;
                                direction: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/suggest": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** A lane for two sides, as the fields and their values suggest it, with the reasons */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        records?: {
                            system: string;
                            collection: string;
                        };
                        calendar?: {
                            system: string;
                            calendar: string;
                        };
                        /** @enum {string} */
                        direction?: "->" | "<-" | "<->";
                        /** @enum {string} */
                        starter?: "activities" | "due-tasks" | "several-dates" | "time-log" | "absences" | "calendar-to-table" | "words-to-status" | "feed-to-table" | "table-to-calendar";
                        zone?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            /** @description a lane file, any part of which may be missing */
                            definition: Record<string, unknown>;
                            reasons: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/preview": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** What a lane that is being arranged would do with what is there now: findings, counts and samples */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        /** @description a lane file, any part of which may be missing */
                        definition: Record<string, unknown>;
                        lane?: string;
                        show?: string[];
                        edit?: {
                            record: string;
                            moment: string;
                            property: string;
                            value: string;
                        };
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            problems: {
                                pointer: string;
                                reason: string;
                            }[];
                            warnings: string[];
                            says: string[];
                            push: boolean;
                            records: {
                                name: string;
                                read: number;
                                complete: boolean;
                                crossing: number;
                                events: number;
                                reasons: {
                                    reason: string;
                                    condition: string;
                                    count: number;
                                    example: string;
                                }[];
                            } | null;
                            events: {
                                name: string;
                                listed: number;
                                read: number;
                                crossing: number;
                                own: number;
                                reasons: {
                                    reason: string;
                                    condition: string;
                                    count: number;
                                    example: string;
                                }[];
                            } | null;
                            items: {
                                recordId: string;
                                label: string;
                                about: string;
                                /** @description what each field says */
                                fields: Record<string, unknown>;
                                moments: {
                                    moment: string;
                                    verdict: {
                                        reason: string;
                                        condition: string;
                                        value: string;
                                    } | null;
                                    /** @description event properties by name */
                                    values: Record<string, unknown>;
                                    unfit: {
                                        property: string;
                                        field: string;
                                        value: string;
                                        reason: string;
                                    }[];
                                    notes: string[];
                                }[];
                            }[];
                            newcomers: {
                                href: string;
                                label: string;
                                verdict: {
                                    reason: string;
                                    condition: string;
                                    value: string;
                                } | null;
                                /** @description event properties */
                                values: Record<string, unknown>;
                                /** @description the record it would become */
                                fields: Record<string, unknown>;
                            }[];
                            series: {
                                count: number;
                                occurrences: number;
                                shown: {
                                    href: string;
                                    label: string;
                                    about: string;
                                    says: string;
                                    occurrences: number;
                                    cancelled: number;
                                    first: string[];
                                }[];
                            } | null;
                            people: {
                                field: string;
                                named: number;
                                found: number;
                            }[];
                            back: {
                                /** @description fields that would change */
                                fields: Record<string, unknown>;
                                reason: string | null;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/drafts": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Lanes that are being arranged, by you or in lanes you arrange */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                slug: string;
                                lane: string | null;
                                laneVersion: number | null;
                                name: string;
                                /** @description a lane file, any part of which may be missing */
                                definition: Record<string, unknown>;
                                version: number;
                                editedBy: string;
                                /** Format: date-time */
                                editedAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Begin to arrange a lane, or to change one; a lane that is being changed already gives its draft */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug: string;
                        lane?: string;
                        /** @description a lane file, any part of which may be missing */
                        definition: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            lane: string | null;
                            laneVersion: number | null;
                            name: string;
                            /** @description a lane file, any part of which may be missing */
                            definition: Record<string, unknown>;
                            version: number;
                            editedBy: string;
                            /** Format: date-time */
                            editedAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/drafts/{draft}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** One draft */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    draft: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            lane: string | null;
                            laneVersion: number | null;
                            name: string;
                            /** @description a lane file, any part of which may be missing */
                            definition: Record<string, unknown>;
                            version: number;
                            editedBy: string;
                            /** Format: date-time */
                            editedAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Save a draft; version names the saving that was edited */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    draft: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug?: string;
                        version: number;
                        /** @description a lane file, any part of which may be missing */
                        definition: Record<string, unknown>;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            lane: string | null;
                            laneVersion: number | null;
                            name: string;
                            /** @description a lane file, any part of which may be missing */
                            definition: Record<string, unknown>;
                            version: number;
                            editedBy: string;
                            /** Format: date-time */
                            editedAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        /** Throw a draft away */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    draft: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/schemas/lane": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** A JSON Schema of lane files, for editors */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": Record<string, unknown>;
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lane-files/check": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Check a lane file: findings with line and column, what it does, and what it would change */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug: string;
                        text: string;
                        start?: boolean;
                        version?: number;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            problems: {
                                pointer: string;
                                reason: string;
                                line?: number;
                                column?: number;
                            }[];
                            says: string[];
                            warnings: string[];
                            version: number | null;
                            changes: {
                                pointer: string;
                                before?: unknown;
                                after?: unknown;
                            }[];
                            definition?: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lane-files": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Make a lane from a lane file, or save it as the next version; its text is kept with its comments */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug: string;
                        text: string;
                        start?: boolean;
                        version?: number;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/file": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The lane file of a lane, with the comments it was written with */
        get: {
            parameters: {
                query?: {
                    version?: number;
                };
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            slug: string;
                            version: number;
                            text: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/versions": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The versions of a lane, newest first, with what each changed */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                version: number;
                                madeBy: string;
                                /** Format: date-time */
                                madeAt: string;
                                changes: {
                                    pointer: string;
                                    before?: unknown;
                                    after?: unknown;
                                }[];
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** All lanes */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                slug: string;
                                version: number;
                                /** @enum {string} */
                                state: "running" | "paused";
                                owner: string | null;
                                definition: {
                                    name: string;
                                    records: {
                                        system: string;
                                        collection: string;
                                    };
                                    calendar: {
                                        system: string;
                                        calendar: string;
                                    };
                                    /** @enum {string} */
                                    direction: "->" | "<-" | "<->";
                                    may: {
                                        records?: {
                                            create?: boolean;
                                            change?: boolean;
                                            remove?: boolean;
                                        };
                                        calendar?: {
                                            create?: boolean;
                                            change?: boolean;
                                            remove?: boolean;
                                        };
                                    };
                                    zone: string;
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    events: {
                                        /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                        filter: Record<string, unknown> | string | null;
                                        /** @enum {string} */
                                        private: "leave out" | "take";
                                        /** @enum {string} */
                                        repeating: "leave out" | "each occurrence" | "one record";
                                        /** @enum {string} */
                                        otherLanes: "leave out" | "take";
                                        moment: string | null;
                                    };
                                    private: {
                                        field: string;
                                        /** @enum {string} */
                                        treat: "leave out" | "take";
                                    } | null;
                                    window: {
                                        behind: number;
                                        ahead: number;
                                    } | null;
                                    startLine: string | null;
                                    moments: {
                                        name: string;
                                        /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                        when: Record<string, unknown>;
                                        /** @enum {string} */
                                        direction?: "->" | "<-" | "<->" | "once";
                                        /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                        filter: Record<string, unknown> | string | null;
                                        fields?: {
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            title?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            description?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            location?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            recurrence?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            status?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            busy?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            visibility?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            categories?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            link?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            conference?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            colour?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            attendees?: Record<string, unknown> | unknown[];
                                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                            reminders?: Record<string, unknown> | unknown[];
                                        };
                                    }[];
                                    fields: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                    /** @description a value for each field */
                                    defaults: Record<string, unknown>;
                                    link: string | null;
                                    matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                    conflicts: {
                                        /** @enum {string} */
                                        rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        tolerance: number;
                                        fields: {
                                            /** @enum {string} */
                                            when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                            /** @enum {string} */
                                            colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        };
                                    };
                                    departures: {
                                        /** @enum {string} */
                                        recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                        /** @enum {string} */
                                        filteredOut: "hold" | "remove" | "keep";
                                        /** @enum {string} */
                                        dateLost: "hold" | "remove" | "keep";
                                        /** @enum {string} */
                                        eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                        /** @enum {string} */
                                        eventCancelled: "hold" | "as deleted" | "set fields";
                                        /** @enum {string} */
                                        eventFilteredOut: "hold" | "delete record" | "keep";
                                        /** @enum {string} */
                                        editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                    };
                                    sets: {
                                        /** @description a value for each field */
                                        eventDeleted: Record<string, unknown>;
                                        /** @description a value for each field */
                                        eventCancelled: Record<string, unknown>;
                                    };
                                    /** @enum {string} */
                                    foreignEdits: "put back" | "leave";
                                    guard: {
                                        removals: number;
                                        removedPercent: number;
                                        rewrittenPercent: number;
                                    };
                                    checkEvery: number;
                                    auditEvery: number;
                                    quiet: {
                                        from: string;
                                        until: string;
                                    } | null;
                                    tell: string[];
                                };
                                recordsName: string;
                                calendarName: string;
                                pairs: number;
                                leftOut: number;
                                failed: number;
                                holds: number;
                                trouble: string | null;
                                failures: number;
                                /** Format: date-time */
                                lastRunAt: string | null;
                                /** Format: date-time */
                                nextRunAt: string | null;
                                lastRun: {
                                    id: string;
                                    lane: string;
                                    laneName: string;
                                    laneVersion: number;
                                    cause: string;
                                    scope: string;
                                    /** @enum {string} */
                                    state: "waiting" | "running" | "done" | "failed" | "held";
                                    reason: string | null;
                                    counts: {
                                        created: number;
                                        changed: number;
                                        removed: number;
                                        adopted: number;
                                        inSync: number;
                                        unlinked: number;
                                        held: number;
                                        unchanged: number;
                                        leftOut: number;
                                        failed: number;
                                    };
                                    planned: number;
                                    done: number;
                                    /** Format: date-time */
                                    startedAt: string | null;
                                    /** Format: date-time */
                                    endedAt: string | null;
                                    /** Format: date-time */
                                    createdAt: string;
                                } | null;
                                delay: {
                                    median: number;
                                    most: number;
                                    count: number;
                                } | null;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Make a lane and start it */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        slug: string;
                        definition: {
                            name: string;
                            records?: {
                                system: string;
                                collection: string;
                            };
                            calendar?: {
                                system: string;
                                calendar: string;
                            };
                            /** @enum {string} */
                            direction: "->" | "<-" | "<->";
                            may?: {
                                records?: {
                                    create?: boolean;
                                    change?: boolean;
                                    remove?: boolean;
                                };
                                calendar?: {
                                    create?: boolean;
                                    change?: boolean;
                                    remove?: boolean;
                                };
                            };
                            zone: string;
                            /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                            filter?: Record<string, unknown> | string | null;
                            events?: {
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter?: Record<string, unknown> | string | null;
                                /** @enum {string} */
                                private?: "leave out" | "take";
                                /** @enum {string} */
                                repeating?: "leave out" | "each occurrence" | "one record";
                                /** @enum {string} */
                                otherLanes?: "leave out" | "take";
                                moment?: string | null;
                            };
                            private?: {
                                field: string;
                                /** @enum {string} */
                                treat?: "leave out" | "take";
                            } | null;
                            window?: {
                                behind: number;
                                ahead: number;
                            } | null;
                            startLine?: string | null;
                            moments: {
                                name: string;
                                /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                when: Record<string, unknown>;
                                /** @enum {string} */
                                direction?: "->" | "<-" | "<->" | "once";
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter?: Record<string, unknown> | string | null;
                                fields?: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                            }[];
                            fields?: {
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                title?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                description?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                location?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                recurrence?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                status?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                busy?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                visibility?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                categories?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                link?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                conference?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                colour?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                attendees?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                reminders?: Record<string, unknown> | unknown[];
                            };
                            /** @description a value for each field */
                            defaults?: Record<string, unknown>;
                            link?: string | null;
                            matching?: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                            conflicts?: {
                                /** @enum {string} */
                                rule?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                tolerance?: number;
                                fields?: {
                                    /** @enum {string} */
                                    when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                };
                            };
                            departures?: {
                                /** @enum {string} */
                                recordDeleted?: "hold" | "remove" | "mark cancelled" | "keep";
                                /** @enum {string} */
                                filteredOut?: "hold" | "remove" | "keep";
                                /** @enum {string} */
                                dateLost?: "hold" | "remove" | "keep";
                                /** @enum {string} */
                                eventDeleted?: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                /** @enum {string} */
                                eventCancelled?: "hold" | "as deleted" | "set fields";
                                /** @enum {string} */
                                eventFilteredOut?: "hold" | "delete record" | "keep";
                                /** @enum {string} */
                                editedAndDeleted?: "hold" | "edit wins" | "deletion wins";
                            };
                            sets?: {
                                /** @description a value for each field */
                                eventDeleted?: Record<string, unknown>;
                                /** @description a value for each field */
                                eventCancelled?: Record<string, unknown>;
                            };
                            /** @enum {string} */
                            foreignEdits?: "put back" | "leave";
                            guard?: {
                                removals?: number;
                                removedPercent?: number;
                                rewrittenPercent?: number;
                            };
                            checkEvery?: number;
                            auditEvery?: number;
                            quiet?: {
                                from: string;
                                until: string;
                            } | null;
                            tell?: string[];
                        };
                        start?: boolean;
                    };
                };
            };
            responses: {
                /** @description Done */
                201: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** One lane; its ETag is its version */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        /** Save a new version of a lane; If-Match names the version that was edited */
        put: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        name: string;
                        records?: {
                            system: string;
                            collection: string;
                        };
                        calendar?: {
                            system: string;
                            calendar: string;
                        };
                        /** @enum {string} */
                        direction: "->" | "<-" | "<->";
                        may?: {
                            records?: {
                                create?: boolean;
                                change?: boolean;
                                remove?: boolean;
                            };
                            calendar?: {
                                create?: boolean;
                                change?: boolean;
                                remove?: boolean;
                            };
                        };
                        zone: string;
                        /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                        filter?: Record<string, unknown> | string | null;
                        events?: {
                            /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                            filter?: Record<string, unknown> | string | null;
                            /** @enum {string} */
                            private?: "leave out" | "take";
                            /** @enum {string} */
                            repeating?: "leave out" | "each occurrence" | "one record";
                            /** @enum {string} */
                            otherLanes?: "leave out" | "take";
                            moment?: string | null;
                        };
                        private?: {
                            field: string;
                            /** @enum {string} */
                            treat?: "leave out" | "take";
                        } | null;
                        window?: {
                            behind: number;
                            ahead: number;
                        } | null;
                        startLine?: string | null;
                        moments: {
                            name: string;
                            /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                            when: Record<string, unknown>;
                            /** @enum {string} */
                            direction?: "->" | "<-" | "<->" | "once";
                            /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                            filter?: Record<string, unknown> | string | null;
                            fields?: {
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                title?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                description?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                location?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                recurrence?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                status?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                busy?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                visibility?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                categories?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                link?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                conference?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                colour?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                attendees?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                reminders?: Record<string, unknown> | unknown[];
                            };
                        }[];
                        fields?: {
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            title?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            description?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            location?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            recurrence?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            status?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            busy?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            visibility?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            categories?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            link?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            conference?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            colour?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            attendees?: Record<string, unknown> | unknown[];
                            /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                            reminders?: Record<string, unknown> | unknown[];
                        };
                        /** @description a value for each field */
                        defaults?: Record<string, unknown>;
                        link?: string | null;
                        matching?: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                        conflicts?: {
                            /** @enum {string} */
                            rule?: "hold" | "records win" | "calendar wins" | "later edit wins";
                            tolerance?: number;
                            fields?: {
                                /** @enum {string} */
                                when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                /** @enum {string} */
                                colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                            };
                        };
                        departures?: {
                            /** @enum {string} */
                            recordDeleted?: "hold" | "remove" | "mark cancelled" | "keep";
                            /** @enum {string} */
                            filteredOut?: "hold" | "remove" | "keep";
                            /** @enum {string} */
                            dateLost?: "hold" | "remove" | "keep";
                            /** @enum {string} */
                            eventDeleted?: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                            /** @enum {string} */
                            eventCancelled?: "hold" | "as deleted" | "set fields";
                            /** @enum {string} */
                            eventFilteredOut?: "hold" | "delete record" | "keep";
                            /** @enum {string} */
                            editedAndDeleted?: "hold" | "edit wins" | "deletion wins";
                        };
                        sets?: {
                            /** @description a value for each field */
                            eventDeleted?: Record<string, unknown>;
                            /** @description a value for each field */
                            eventCancelled?: Record<string, unknown>;
                        };
                        /** @enum {string} */
                        foreignEdits?: "put back" | "leave";
                        guard?: {
                            removals?: number;
                            removedPercent?: number;
                            rewrittenPercent?: number;
                        };
                        checkEvery?: number;
                        auditEvery?: number;
                        quiet?: {
                            from: string;
                            until: string;
                        } | null;
                        tell?: string[];
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        post?: never;
        /** Remove a lane; what it made on the calendar stays */
        delete: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                204: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content?: never;
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/pause": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Pause a lane */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/resume": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Resume a paused lane */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/forecast": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** What a run would do now, without doing it; with a definition, what it would do if the lane were so */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        definition?: {
                            name: string;
                            records?: {
                                system: string;
                                collection: string;
                            };
                            calendar?: {
                                system: string;
                                calendar: string;
                            };
                            /** @enum {string} */
                            direction: "->" | "<-" | "<->";
                            may?: {
                                records?: {
                                    create?: boolean;
                                    change?: boolean;
                                    remove?: boolean;
                                };
                                calendar?: {
                                    create?: boolean;
                                    change?: boolean;
                                    remove?: boolean;
                                };
                            };
                            zone: string;
                            /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                            filter?: Record<string, unknown> | string | null;
                            events?: {
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter?: Record<string, unknown> | string | null;
                                /** @enum {string} */
                                private?: "leave out" | "take";
                                /** @enum {string} */
                                repeating?: "leave out" | "each occurrence" | "one record";
                                /** @enum {string} */
                                otherLanes?: "leave out" | "take";
                                moment?: string | null;
                            };
                            private?: {
                                field: string;
                                /** @enum {string} */
                                treat?: "leave out" | "take";
                            } | null;
                            window?: {
                                behind: number;
                                ahead: number;
                            } | null;
                            startLine?: string | null;
                            moments: {
                                name: string;
                                /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                when: Record<string, unknown>;
                                /** @enum {string} */
                                direction?: "->" | "<-" | "<->" | "once";
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter?: Record<string, unknown> | string | null;
                                fields?: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                            }[];
                            fields?: {
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                title?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                description?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                location?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                recurrence?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                status?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                busy?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                visibility?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                categories?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                link?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                conference?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                colour?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                attendees?: Record<string, unknown> | unknown[];
                                /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                reminders?: Record<string, unknown> | unknown[];
                            };
                            /** @description a value for each field */
                            defaults?: Record<string, unknown>;
                            link?: string | null;
                            matching?: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                            conflicts?: {
                                /** @enum {string} */
                                rule?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                tolerance?: number;
                                fields?: {
                                    /** @enum {string} */
                                    when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    /** @enum {string} */
                                    colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                };
                            };
                            departures?: {
                                /** @enum {string} */
                                recordDeleted?: "hold" | "remove" | "mark cancelled" | "keep";
                                /** @enum {string} */
                                filteredOut?: "hold" | "remove" | "keep";
                                /** @enum {string} */
                                dateLost?: "hold" | "remove" | "keep";
                                /** @enum {string} */
                                eventDeleted?: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                /** @enum {string} */
                                eventCancelled?: "hold" | "as deleted" | "set fields";
                                /** @enum {string} */
                                eventFilteredOut?: "hold" | "delete record" | "keep";
                                /** @enum {string} */
                                editedAndDeleted?: "hold" | "edit wins" | "deletion wins";
                            };
                            sets?: {
                                /** @description a value for each field */
                                eventDeleted?: Record<string, unknown>;
                                /** @description a value for each field */
                                eventCancelled?: Record<string, unknown>;
                            };
                            /** @enum {string} */
                            foreignEdits?: "put back" | "leave";
                            guard?: {
                                removals?: number;
                                removedPercent?: number;
                                rewrittenPercent?: number;
                            };
                            checkEvery?: number;
                            auditEvery?: number;
                            quiet?: {
                                from: string;
                                until: string;
                            } | null;
                            tell?: string[];
                        };
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            operations: {
                                /** @enum {string} */
                                kind: "create" | "create record" | "change" | "adopt" | "agree" | "remove" | "remove record" | "unlink" | "hold";
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                            }[];
                            verdicts: {
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                reason: string;
                                condition: string;
                                value: string;
                            }[];
                            unchanged: number;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            guard: string[];
                            warnings: string[];
                            scope: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/audit": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Read both sides whole and compare them */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            counts: {
                                moments: number;
                                leftOut: number;
                                inSync: number;
                                differing: number;
                                missing: number;
                                missingRecords: number;
                                extra: number;
                                foreign: number;
                                events: number;
                            };
                            addsUp: boolean;
                            differences: {
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                fix: string | null;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/runs": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Run a lane now: what changed, everything (sweep), or some records alone */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        sweep?: boolean;
                        hrefs?: string[];
                        records?: string[];
                    };
                };
            };
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/items/{record}/follow": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Follow an item again that the lane no longer follows: a record by its id, an event without one by its address */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                    record: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/items": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Items of a lane: pairs and verdicts */
        get: {
            parameters: {
                query?: {
                    search?: string;
                    state?: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                    order?: "time" | "title" | "record" | "state" | "since";
                    descending?: boolean;
                    cursor?: string;
                    limit?: number;
                };
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                                when: unknown;
                                verdict: {
                                    /** @enum {string} */
                                    reason: "no date" | "filtered out" | "private" | "before the start line" | "out of the window" | "unfit value" | "several candidates" | "no longer followed" | "refused by the system" | "unreadable event" | "repeating" | "made by another lane" | "duplicate UID" | "not made here" | "unexpected error";
                                    condition: string;
                                    value: string;
                                    /** Format: date-time */
                                    recheckAt: string | null;
                                    /** Format: date-time */
                                    at: string;
                                } | null;
                                /** Format: date-time */
                                updatedAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/items/{record}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Everything about one item */
        get: {
            parameters: {
                query?: {
                    moment?: string;
                };
                header?: never;
                path: {
                    lane: string;
                    record: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            lane: string;
                            recordId: string | null;
                            href: string | null;
                            moment: string;
                            label: string;
                            /** @enum {string} */
                            state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                            when: unknown;
                            verdict: {
                                /** @enum {string} */
                                reason: "no date" | "filtered out" | "private" | "before the start line" | "out of the window" | "unfit value" | "several candidates" | "no longer followed" | "refused by the system" | "unreadable event" | "repeating" | "made by another lane" | "duplicate UID" | "not made here" | "unexpected error";
                                condition: string;
                                value: string;
                                /** Format: date-time */
                                recheckAt: string | null;
                                /** Format: date-time */
                                at: string;
                            } | null;
                            /** Format: date-time */
                            updatedAt: string;
                            record: {
                                url: string | null;
                                /** @description event properties by name */
                                values: Record<string, unknown> | null;
                                fields: unknown;
                                trouble: string | null;
                            };
                            event: {
                                href: string | null;
                                uid: string | null;
                                /** @description event properties by name */
                                values: Record<string, unknown> | null;
                                trouble: string | null;
                            };
                            /** @description the values on which both sides last agreed */
                            baseline: Record<string, unknown> | null;
                            history: {
                                id: number;
                                run: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                kind: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                                removed: string | null;
                                laneVersion: number;
                                /** Format: date-time */
                                at: string;
                            }[];
                            hold: {
                                id: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                                choices: string[];
                                cause: string;
                                /** @description event properties by name */
                                record: Record<string, unknown>;
                                /** @description event properties by name */
                                event: Record<string, unknown>;
                                /** @description the values on which both sides last agreed */
                                baseline: Record<string, unknown> | null;
                                candidates: {
                                    choice: string;
                                    /** @description event properties by name */
                                    values: Record<string, unknown>;
                                }[];
                                state: string;
                                choice: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            series: {
                                says: string;
                                occurrence: string | null;
                                others: {
                                    item: string;
                                    moment: string;
                                    label: string;
                                    when: string;
                                }[];
                                overrides: string[];
                            } | null;
                            why: string;
                            next: string;
                            moments: {
                                moment: string;
                                /** @enum {string} */
                                state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                                when: unknown;
                                why: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/why": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Why a record or event is as it is: by id, UID, address or words of its title */
        get: {
            parameters: {
                query: {
                    item: string;
                };
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            lane: string;
                            recordId: string | null;
                            href: string | null;
                            moment: string;
                            label: string;
                            /** @enum {string} */
                            state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                            when: unknown;
                            verdict: {
                                /** @enum {string} */
                                reason: "no date" | "filtered out" | "private" | "before the start line" | "out of the window" | "unfit value" | "several candidates" | "no longer followed" | "refused by the system" | "unreadable event" | "repeating" | "made by another lane" | "duplicate UID" | "not made here" | "unexpected error";
                                condition: string;
                                value: string;
                                /** Format: date-time */
                                recheckAt: string | null;
                                /** Format: date-time */
                                at: string;
                            } | null;
                            /** Format: date-time */
                            updatedAt: string;
                            record: {
                                url: string | null;
                                /** @description event properties by name */
                                values: Record<string, unknown> | null;
                                fields: unknown;
                                trouble: string | null;
                            };
                            event: {
                                href: string | null;
                                uid: string | null;
                                /** @description event properties by name */
                                values: Record<string, unknown> | null;
                                trouble: string | null;
                            };
                            /** @description the values on which both sides last agreed */
                            baseline: Record<string, unknown> | null;
                            history: {
                                id: number;
                                run: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                kind: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                                removed: string | null;
                                laneVersion: number;
                                /** Format: date-time */
                                at: string;
                            }[];
                            hold: {
                                id: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                                choices: string[];
                                cause: string;
                                /** @description event properties by name */
                                record: Record<string, unknown>;
                                /** @description event properties by name */
                                event: Record<string, unknown>;
                                /** @description the values on which both sides last agreed */
                                baseline: Record<string, unknown> | null;
                                candidates: {
                                    choice: string;
                                    /** @description event properties by name */
                                    values: Record<string, unknown>;
                                }[];
                                state: string;
                                choice: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            series: {
                                says: string;
                                occurrence: string | null;
                                others: {
                                    item: string;
                                    moment: string;
                                    label: string;
                                    when: string;
                                }[];
                                overrides: string[];
                            } | null;
                            why: string;
                            next: string;
                            moments: {
                                moment: string;
                                /** @enum {string} */
                                state: "creating" | "unconfirmed" | "in sync" | "held" | "unlinked" | "removed" | "left out" | "failed";
                                when: unknown;
                                why: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/runs": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Runs, newest first */
        get: {
            parameters: {
                query?: {
                    lane?: string;
                    state?: "waiting" | "running" | "done" | "failed" | "held";
                    cursor?: string;
                    limit?: number;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/runs/{run}": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** One run */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    run: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/runs/{run}/release": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Let a held run through: it may remove and rewrite the items that it showed, and no others beyond the guard */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    run: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/journal": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** The journal, newest first */
        get: {
            parameters: {
                query?: {
                    lane?: string;
                    run?: string;
                    record?: string;
                    cursor?: string;
                    limit?: number;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: number;
                                run: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                kind: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                                removed: string | null;
                                laneVersion: number;
                                /** Format: date-time */
                                at: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/holds": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** Open holds, oldest first */
        get: {
            parameters: {
                query?: {
                    lane?: string;
                    cursor?: string;
                    limit?: number;
                };
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            items: {
                                id: string;
                                lane: string;
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                /** @enum {string} */
                                question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                                choices: string[];
                                cause: string;
                                /** @description event properties by name */
                                record: Record<string, unknown>;
                                /** @description event properties by name */
                                event: Record<string, unknown>;
                                /** @description the values on which both sides last agreed */
                                baseline: Record<string, unknown> | null;
                                candidates: {
                                    choice: string;
                                    /** @description event properties by name */
                                    values: Record<string, unknown>;
                                }[];
                                state: string;
                                choice: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            }[];
                            next: string | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        post?: never;
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/holds/settle": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Settle all open holds that ask the same question, alike; those that do not have the answer stay open */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path?: never;
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        choice: string;
                        /** @enum {string} */
                        question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                        lane?: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            settled: number;
                            skipped: number;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/lanes/{lane}/stop": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What stopping a lane would do with what it made */
        get: {
            parameters: {
                query: {
                    events: "keep" | "remove" | "unlink";
                };
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            removed: number;
                            unlinked: number;
                            kept: number;
                            operations: {
                                /** @enum {string} */
                                kind: "create" | "create record" | "change" | "adopt" | "agree" | "remove" | "remove record" | "unlink" | "hold";
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                            }[];
                            impossible: {
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                reason: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Stop a lane: keep what it created, remove it unless it was edited since, or unlink it */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    lane: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        /** @enum {string} */
                        events: "keep" | "remove" | "unlink";
                    };
                };
            };
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            slug: string;
                            version: number;
                            /** @enum {string} */
                            state: "running" | "paused";
                            owner: string | null;
                            definition: {
                                name: string;
                                records: {
                                    system: string;
                                    collection: string;
                                };
                                calendar: {
                                    system: string;
                                    calendar: string;
                                };
                                /** @enum {string} */
                                direction: "->" | "<-" | "<->";
                                may: {
                                    records?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                    calendar?: {
                                        create?: boolean;
                                        change?: boolean;
                                        remove?: boolean;
                                    };
                                };
                                zone: string;
                                /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                filter: Record<string, unknown> | string | null;
                                events: {
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    /** @enum {string} */
                                    private: "leave out" | "take";
                                    /** @enum {string} */
                                    repeating: "leave out" | "each occurrence" | "one record";
                                    /** @enum {string} */
                                    otherLanes: "leave out" | "take";
                                    moment: string | null;
                                };
                                private: {
                                    field: string;
                                    /** @enum {string} */
                                    treat: "leave out" | "take";
                                } | null;
                                window: {
                                    behind: number;
                                    ahead: number;
                                } | null;
                                startLine: string | null;
                                moments: {
                                    name: string;
                                    /** @description start + end; start + end + length; start + length; start + minutes; date + time + length; date + time + minutes; first + last + lastCounts; day; due + show + minutes; due + show */
                                    when: Record<string, unknown>;
                                    /** @enum {string} */
                                    direction?: "->" | "<-" | "<->" | "once";
                                    /** @description a condition: as text, or as a tree of all, any, not and comparisons (field, test, value) */
                                    filter: Record<string, unknown> | string | null;
                                    fields?: {
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        title?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        description?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        location?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        recurrence?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        status?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        busy?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        visibility?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        categories?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        link?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        conference?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        colour?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        attendees?: Record<string, unknown> | unknown[];
                                        /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                        reminders?: Record<string, unknown> | unknown[];
                                    };
                                }[];
                                fields: {
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    title?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    description?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    location?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    recurrence?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    status?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    busy?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    visibility?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    categories?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    link?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    conference?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    colour?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    attendees?: Record<string, unknown> | unknown[];
                                    /** @description copy: FIELD, join: TEXT (with edit: FIELD), fixed: VALUE, table: FIELD with values, words: FIELD with choose, people: FIELD (with in: COLLECTION), page: true, or, for recurrence, rule: FIELD (with excluded: FIELD) or repeats: { frequency: FIELD, ... }; with default and direction; or a list of these */
                                    reminders?: Record<string, unknown> | unknown[];
                                };
                                /** @description a value for each field */
                                defaults: Record<string, unknown>;
                                link: string | null;
                                matching: ("when" | "recurrence" | "title" | "location" | "description" | "attendees" | "categories" | "busy" | "status" | "visibility" | "reminders" | "link" | "conference" | "colour")[];
                                conflicts: {
                                    /** @enum {string} */
                                    rule: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    tolerance: number;
                                    fields: {
                                        /** @enum {string} */
                                        when?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        recurrence?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        title?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        location?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        description?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        attendees?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        categories?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        busy?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        status?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        visibility?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        reminders?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        link?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        conference?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                        /** @enum {string} */
                                        colour?: "hold" | "records win" | "calendar wins" | "later edit wins";
                                    };
                                };
                                departures: {
                                    /** @enum {string} */
                                    recordDeleted: "hold" | "remove" | "mark cancelled" | "keep";
                                    /** @enum {string} */
                                    filteredOut: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    dateLost: "hold" | "remove" | "keep";
                                    /** @enum {string} */
                                    eventDeleted: "hold" | "delete record" | "set fields" | "create again" | "unlink";
                                    /** @enum {string} */
                                    eventCancelled: "hold" | "as deleted" | "set fields";
                                    /** @enum {string} */
                                    eventFilteredOut: "hold" | "delete record" | "keep";
                                    /** @enum {string} */
                                    editedAndDeleted: "hold" | "edit wins" | "deletion wins";
                                };
                                sets: {
                                    /** @description a value for each field */
                                    eventDeleted: Record<string, unknown>;
                                    /** @description a value for each field */
                                    eventCancelled: Record<string, unknown>;
                                };
                                /** @enum {string} */
                                foreignEdits: "put back" | "leave";
                                guard: {
                                    removals: number;
                                    removedPercent: number;
                                    rewrittenPercent: number;
                                };
                                checkEvery: number;
                                auditEvery: number;
                                quiet: {
                                    from: string;
                                    until: string;
                                } | null;
                                tell: string[];
                            };
                            recordsName: string;
                            calendarName: string;
                            pairs: number;
                            leftOut: number;
                            failed: number;
                            holds: number;
                            trouble: string | null;
                            failures: number;
                            /** Format: date-time */
                            lastRunAt: string | null;
                            /** Format: date-time */
                            nextRunAt: string | null;
                            lastRun: {
                                id: string;
                                lane: string;
                                laneName: string;
                                laneVersion: number;
                                cause: string;
                                scope: string;
                                /** @enum {string} */
                                state: "waiting" | "running" | "done" | "failed" | "held";
                                reason: string | null;
                                counts: {
                                    created: number;
                                    changed: number;
                                    removed: number;
                                    adopted: number;
                                    inSync: number;
                                    unlinked: number;
                                    held: number;
                                    unchanged: number;
                                    leftOut: number;
                                    failed: number;
                                };
                                planned: number;
                                done: number;
                                /** Format: date-time */
                                startedAt: string | null;
                                /** Format: date-time */
                                endedAt: string | null;
                                /** Format: date-time */
                                createdAt: string;
                            } | null;
                            delay: {
                                median: number;
                                most: number;
                                count: number;
                            } | null;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/runs/{run}/undo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What taking a run back would do, and what cannot be taken back */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    run: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            operations: {
                                /** @enum {string} */
                                kind: "create" | "create record" | "change" | "adopt" | "agree" | "remove" | "remove record" | "unlink" | "hold";
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                            }[];
                            impossible: {
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                reason: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Take back what a run did, unless it was edited since */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    run: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/journal/{entry}/undo": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        /** What taking one change back would do */
        get: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    entry: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            operations: {
                                /** @enum {string} */
                                kind: "create" | "create record" | "change" | "adopt" | "agree" | "remove" | "remove record" | "unlink" | "hold";
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                cause: string;
                                changes: {
                                    /** @enum {string} */
                                    side?: "record" | "event";
                                    property?: string;
                                    before?: unknown;
                                    after?: unknown;
                                    cause?: string;
                                }[];
                                notes: string[];
                            }[];
                            impossible: {
                                recordId: string | null;
                                href: string | null;
                                moment: string;
                                label: string;
                                reason: string;
                            }[];
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        put?: never;
        /** Take one change back, unless the item was edited since */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    entry: string;
                };
                cookie?: never;
            };
            requestBody?: never;
            responses: {
                /** @description Done */
                202: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            laneName: string;
                            laneVersion: number;
                            cause: string;
                            scope: string;
                            /** @enum {string} */
                            state: "waiting" | "running" | "done" | "failed" | "held";
                            reason: string | null;
                            counts: {
                                created: number;
                                changed: number;
                                removed: number;
                                adopted: number;
                                inSync: number;
                                unlinked: number;
                                held: number;
                                unchanged: number;
                                leftOut: number;
                                failed: number;
                            };
                            planned: number;
                            done: number;
                            /** Format: date-time */
                            startedAt: string | null;
                            /** Format: date-time */
                            endedAt: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
    "/api/v1/holds/{hold}/settle": {
        parameters: {
            query?: never;
            header?: never;
            path?: never;
            cookie?: never;
        };
        get?: never;
        put?: never;
        /** Settle a hold; the lane carries it out at once */
        post: {
            parameters: {
                query?: never;
                header?: never;
                path: {
                    hold: string;
                };
                cookie?: never;
            };
            requestBody: {
                content: {
                    "application/json": {
                        choice: string;
                    };
                };
            };
            responses: {
                /** @description Done */
                200: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/json": {
                            id: string;
                            lane: string;
                            recordId: string | null;
                            href: string | null;
                            moment: string;
                            label: string;
                            /** @enum {string} */
                            question: "record deleted" | "filtered out" | "date lost" | "event deleted" | "event cancelled" | "event filtered out" | "edited and deleted" | "conflict" | "several candidates" | "keeps changing" | "repeating event";
                            choices: string[];
                            cause: string;
                            /** @description event properties by name */
                            record: Record<string, unknown>;
                            /** @description event properties by name */
                            event: Record<string, unknown>;
                            /** @description the values on which both sides last agreed */
                            baseline: Record<string, unknown> | null;
                            candidates: {
                                choice: string;
                                /** @description event properties by name */
                                values: Record<string, unknown>;
                            }[];
                            state: string;
                            choice: string | null;
                            /** Format: date-time */
                            createdAt: string;
                        };
                    };
                };
                /** @description A problem (RFC 9457) */
                default: {
                    headers: {
                        [name: string]: unknown;
                    };
                    content: {
                        "application/problem+json": {
                            type: string;
                            title: string;
                            status: number;
                            detail: string;
                            problems?: {
                                pointer: string;
                                reason: string;
                            }[];
                        };
                    };
                };
            };
        };
        delete?: never;
        options?: never;
        head?: never;
        patch?: never;
        trace?: never;
    };
}
export type webhooks = Record<string, never>;
export interface components {
    schemas: never;
    responses: never;
    parameters: never;
    requestBodies: never;
    headers: never;
    pathItems: never;
}
export type $defs = Record<string, never>;
export type operations = Record<string, never>;
