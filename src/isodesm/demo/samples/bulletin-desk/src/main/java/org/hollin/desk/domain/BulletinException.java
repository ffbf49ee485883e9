package org.hollin.desk.domain;

/** Something kept a bulletin from being written or published. */
public class BulletinException extends Exception {

    public BulletinException(String message) {
        super(message);
    }

    public BulletinException(String message, Throwable cause) {
        super(message, cause);
    }
}
