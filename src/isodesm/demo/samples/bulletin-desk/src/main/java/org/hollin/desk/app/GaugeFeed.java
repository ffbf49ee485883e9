package org.hollin.desk.app;

import java.util.List;

import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.SnowReading;
import org.hollin.desk.domain.Valley;

/** Where the morning's readings come from. */
public interface GaugeFeed {

    List<SnowReading> readingsOf(Valley valley) throws BulletinException;
}
