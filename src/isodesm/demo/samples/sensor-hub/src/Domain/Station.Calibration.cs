namespace Hollin.Hub.Domain
{
    public partial class Station
    {
        public double Corrected(Reading reading)
        {
            return reading.Value - Offset;
        }

        public void Add(Reading reading)
        {
            Readings.Add(new Reading(reading.Station, reading.Quantity, Corrected(reading), reading.At));
        }
    }
}
