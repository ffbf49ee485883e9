namespace Hollin.Hub.Host
{
    /// <summary>Read from the command line at start-up, and from everywhere after that.</summary>
    public static class HubSettings
    {
        public static double DriftWind = 9.5;
        public static string RadioHost = "radio.hollin.example";
        public static string ReportFile;
    }
}
