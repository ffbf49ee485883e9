package org.hollin.desk.app;

import org.hollin.desk.domain.Bulletin;

/** A way of telling people that a bulletin is out. */
public interface Bell {

    void ring(Bulletin bulletin);
}
