package org.hollin.desk.infra;

import java.util.HashMap;
import java.util.Map;

/** Hands out the desk's shared objects by their class. */
public final class DeskLocator {

    private static final Map<Class<?>, Object> PARTS = new HashMap<>();

    private DeskLocator() {
    }

    public static <T> void offer(Class<T> key, T part) {
        PARTS.put(key, part);
    }

    public static <T> T find(Class<T> key) {
        Object part = PARTS.get(key);
        if (part == null) {
            throw new IllegalStateException("nobody offered a " + key.getSimpleName());
        }
        return key.cast(part);
    }
}
