{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Half turn",
  "line": "Half way round, from one side to the other.",
  "tags": [
   "lively",
   "turn"
  ],
  "frames": 168.0,
  "nodes": [
   {
    "kind": "null",
    "id": "turn",
    "name": "Turn",
    "channels": [
     {
      "name": "rotation.x",
      "value": -8.0
     },
     {
      "name": "rotation.y",
      "value": -90.0,
      "keys": [
       {
        "frame": 0.0,
        "value": -90.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 168.0,
        "value": 90.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f"
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "turn",
    "channels": [
     {
      "name": "position.z",
      "value": 3.4
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "middle",
  "focuses": true
 }
}
