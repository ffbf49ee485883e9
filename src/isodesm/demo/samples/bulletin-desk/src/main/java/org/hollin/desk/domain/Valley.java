package org.hollin.desk.domain;

/** A warning region of the Hollin Range. */
public record Valley(String code, String name, int treeLine) {
}
